"""Tables: reading, column roles, calendar."""

from .calendar import Calendar, Grain, Period
from .guide import Guide
from .reading import read
from .table import Column, Role, Table
from .timeline import Timeline

__all__ = ["Calendar", "Column", "Grain", "Guide", "Period", "Role", "Table", "Timeline", "read"]
