"""Tables: reading, column roles, calendar."""

from .calendar import Calendar, Grain, Period, Timeline
from .guide import Guide
from .reading import read
from .table import Column, Role, Table

__all__ = ["Calendar", "Column", "Grain", "Guide", "Period", "Role", "Table", "Timeline", "read"]
