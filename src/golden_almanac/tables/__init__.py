"""Tables: reading, column roles, calendar."""

from .calendar import Calendar, Grain, Period
from .io.reading import read
from .reading_guide import Guide
from .table import Column, Role, Table
from .timeline import Timeline

__all__ = ["Calendar", "Column", "Grain", "Guide", "Period", "Role", "Table", "Timeline", "read"]
