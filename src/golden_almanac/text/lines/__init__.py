"""What a terminal shows, line by line, in the reader's language."""

from .line_pieces import Line
from .meaning_lines import meaning
from .readiness_lines import links_lines, readiness_headline, readiness_lines
from .scan_lines import scan_lines

__all__ = ["Line", "links_lines", "meaning", "readiness_headline", "readiness_lines", "scan_lines"]
