"""Words: numbers, names and sentences for what was found."""

from .headlines import detail, headline
from .summary import Summary, change_summary, scan_summary

__all__ = ["Summary", "change_summary", "detail", "headline", "scan_summary"]
