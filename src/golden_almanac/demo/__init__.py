"""The made-up company, Pellow Sound Ferries: its data and what is planted in them."""

from . import harbour_workbook, season_passes
from .generator import COLUMNS, sailings, sailings_csv, stories

__all__ = ["COLUMNS", "harbour_workbook", "sailings", "sailings_csv", "season_passes", "stories"]
