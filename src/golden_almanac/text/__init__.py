"""Words: numbers, names and sentences for what was found."""

from . import dates, names, numbers
from .finding_messages import headline_and_detail
from .joint_changes import joint_summary
from .lines import Line
from .suggestions import Suggestion, suggestions
from .summary import LENGTHS, Fact, Summary, change_summary, scan_summary
from .template_values import Live, fill

__all__ = [
    "LENGTHS",
    "Fact",
    "Line",
    "Live",
    "Suggestion",
    "Summary",
    "change_summary",
    "dates",
    "fill",
    "headline_and_detail",
    "joint_summary",
    "names",
    "numbers",
    "scan_summary",
    "suggestions",
]
