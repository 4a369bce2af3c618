"""The made-up company, Pellow Sound Ferries: its data and what is planted in them."""

from .generator import COLUMNS, sailings, stories, write_sailings

__all__ = ["COLUMNS", "sailings", "stories", "write_sailings"]
