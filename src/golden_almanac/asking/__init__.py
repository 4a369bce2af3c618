"""Plain language to a request: what a question asks of a table, each of its words accounted for; nothing is computed.

`reader.read` does it: `words` cuts the question, `places` finds columns, labels, dates, numbers and words of the
lexicon in it, `grammar` puts them together (`intents`, `total_questions`, `row_questions`), `requests` makes the call
of it, `wording` says it again.
"""

from .asked import Asked, Filter, Measured
from .reader import Reading, read

__all__ = ["Asked", "Filter", "Measured", "Reading", "read"]
