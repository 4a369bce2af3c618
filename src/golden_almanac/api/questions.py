"""`ga.questions`: what is worth asking of a table, each question runnable as it stands."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from ..analysis.question_ideas import Question as Asked
from ..analysis.question_ideas import questions as worth_asking
from ..support.printable import made_visible
from ..tables import Table
from ..text.languages import Voice, voice
from ..text.question_sentences import question
from .calls import request_for
from .read import read
from .request import Request
from .result_language import in_voice, voiced


@dataclass(frozen=True, slots=True, kw_only=True, repr=False)
class Question:
    """A question worth asking; `run()` answers it, `command` is the same in the terminal."""

    table: Table
    asked: Asked
    voice: Voice = field(default_factory=voice)

    @property
    @in_voice
    def text(self) -> str:
        return question(self.asked)

    @property
    def request(self) -> Request:
        """What it asks, of the table."""
        return request_for(self.asked.call, self.table, self.asked.arguments)

    @property
    def call(self) -> str:
        """The call in Python: `ga.compare(source, outcome="delay_min", by="vessel")`."""
        return self.request.as_call()

    @property
    def command(self) -> str:
        """The command line, with the source's name in its place."""
        return self.request.as_command(self.table.called)

    def run(self) -> Any:
        """The answer: a comparison, relation, drivers or change."""
        return self.request.run()

    @made_visible
    def __repr__(self) -> str:
        return f"{self.text}  {self.call}"


@voiced
def questions(
    source: Any, most: int = 12, *, locale: str | None = None, names: Mapping[str, str] | None = None
) -> list[Question]:
    """Questions worth asking of a table, a mixed lot, from the roles and shapes of its columns.

    Parameters
    ----------
    source
        Anything `ga.read` takes, or a `Table`. Columns that are mostly missing are not asked about.
    most
        How many at most.
    locale, names
        The language of the result, and what its columns are called there (see `speaking`); of the caller by default.

    Returns
    -------
    list of Question
        Each with its text, the call in Python and the command; `run()` answers it.

    Raises
    ------
    AlmanacError
        One of its subclasses, when the source cannot be read.
    """
    table = read(source)
    return [Question(table=table, asked=one) for one in worth_asking(table, most)]
