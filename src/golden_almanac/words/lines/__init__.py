"""What a terminal shows, line by line, in the reader's language."""

from .line import Line
from .readiness import links_lines, readiness_headline, readiness_lines
from .scan import scan_lines

__all__ = ["Line", "links_lines", "readiness_headline", "readiness_lines", "scan_lines"]
