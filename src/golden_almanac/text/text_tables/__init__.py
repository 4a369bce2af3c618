"""Tables of text in the reader's language: what a terminal shows below the sentences of a result.

Those of one result are in a file of their own, so that a scan need not load what comparisons are told with.
"""

from .text_table import TextTable

__all__ = ["TextTable"]
