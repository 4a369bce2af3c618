"""The made-up company, Pellow Sound Ferries: its data and what is planted in them."""

from . import harbour
from .generator import COLUMNS, sailings, sailings_csv, stories

__all__ = ["COLUMNS", "harbour", "sailings", "sailings_csv", "stories"]
