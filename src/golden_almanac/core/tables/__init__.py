"""Tables: reading, column roles, calendar."""

from .calendar import Grain, Period, Timeline
from .reading import read
from .table import Column, Role, Table

__all__ = ["Column", "Grain", "Period", "Role", "Table", "Timeline", "read"]
