"""Words: numbers, names and sentences for what was found."""

from .headlines import detail, headline
from .joint import joint_summary
from .summary import Summary, change_summary, scan_summary

__all__ = ["Summary", "change_summary", "detail", "headline", "joint_summary", "scan_summary"]
