"""`ga.ask`: a question in plain English, answered by the calls that everybody has."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, Any, ClassVar

from ..asking import Reading, read
from ..asking import next_questions as ideas
from ..asking.asked import Asked
from ..asking.wording import question_of
from ..charts import Chart
from ..charts.caller_axes import onto
from ..charts.palette import Palette, sharing
from ..findings import Finding
from ..reports import Report as Model
from ..support.errors import AlmanacError, RequestError
from ..tables import Table, Timeline
from ..tables.meaning.row_nouns import row_noun
from ..text import Summary
from ..text.answer_sentences import account_of, further_of, refused_summary
from ..text.languages import speaking, voice
from ..text.text_tables import TextTable
from .answer_source import table_of
from .calls import request_for
from .report import Report
from .request import Request
from .result import Result
from .result_language import in_one_palette, in_voice, voiced

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.axes import Axes

#: Facts that are told beside an answer, and questions that follow on.
_MOST_BESIDE, _MOST_NEXT = 3, 3


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class Answer(Result):
    """A question with how it was read and what came of it; `found` is the result of the call, None where the question
    was refused, whose `problem` says why and `alternatives` what may be asked instead."""

    format: ClassVar[str] = "golden-almanac/answer/1"

    table: Table
    reading: Reading
    found: Result | None
    problem: str = ""
    joined: str = ""
    carried: tuple[str, ...] = ()
    _kept: dict[str, Any] = field(default_factory=dict)

    @property
    def question(self) -> str:
        return self.reading.question

    @property
    def status(self) -> str:
        """answered, ambiguous (it asks which was meant) or refused."""
        return "refused" if self.found is None and self.reading.asked is not None else self.reading.status

    @property
    def asked(self) -> Asked | None:
        """What was asked, in slots that a follow-up fills anew."""
        return self.reading.asked

    @property
    def request(self) -> Request | None:
        """The same as a caller would ask it: `request.as_call()` in Python, `request.as_command(source)` in a shell."""
        call = self.reading.call
        return None if call is None else request_for(call.name, self.table, call.arguments)

    @property
    def as_read(self) -> str:
        """How the question was read, as a question that leaves nothing open; "" where it was not."""
        return "" if self.asked is None else question_of(self.asked, self.table)

    @property
    def unread(self) -> tuple[str, ...]:
        """The words that nothing was made of."""
        return self.reading.unread

    @property
    def alternatives(self) -> tuple[str, ...]:
        """Questions to ask instead; of an answer, the other ways in which the question could have been meant."""
        if self.asked is None:
            return self.reading.alternatives
        if "others" not in self._kept:
            self._kept["others"] = ideas.others(self.asked, self.table)
        made: tuple[str, ...] = self._kept["others"]
        return made

    @property
    def sentence(self) -> str:
        """The answer in one sentence, or why there is none."""
        return self.headline

    @property
    def sql(self) -> str | None:
        """The SELECT that gives the figures again; None where a call has several, or none."""
        sql = getattr(self.found, "sql", None)
        if isinstance(sql, str):
            return sql
        findings = self._findings()
        check = findings[0].candidate.check if findings else None
        return None if check is None else check.sql

    @property
    def next(self) -> tuple[str, ...]:
        """Questions that follow on, each of which runs as it stands."""
        if self.asked is None:
            return ()
        if "next" not in self._kept:
            self._kept["next"] = ideas.after(self.asked, self.table, _MOST_NEXT)
        made: tuple[str, ...] = self._kept["next"]
        return made

    def check(self) -> bool | None:
        """Whether the figures come out again from the SQL, run anew over the rows; None where there is no SQL to check
        them by: a test, a correlation, effects with all else equal."""
        if self.found is None:
            return False
        check = getattr(self.found, "check", None)
        if callable(check):
            return bool(check())
        checks = [finding.check().agrees for finding in self._findings()]
        return all(checks) if checks else None

    def beside(self) -> tuple[Finding, ...]:
        """Up to three facts about the same figures that a scan tells, under the same control of false discoveries, or
        none. The scan is made once for a table."""
        if self.asked is None or self.found is None:
            return ()
        if "beside" not in self._kept:
            self._kept["beside"] = _beside(self.table, self.asked)
        found: tuple[Finding, ...] = self._kept["beside"]
        return found

    @in_voice
    def account(self, command: str = "") -> list[str]:
        """How the question was read, what else it could be, the SQL, and the command that gives the same."""
        return account_of(self.as_read, self.alternatives, self.carried, self.sql, command)

    @in_voice
    def further(self) -> list[str]:
        """What to ask next, in one line; none where there is nothing."""
        return further_of(self.next)

    def _findings(self) -> tuple[Finding, ...]:
        return tuple(getattr(self.found, "findings", ()))

    def _about(self) -> Table:
        return self.table

    def _line(self) -> Timeline | None:
        return None if self.found is None else self.found._line()

    def _asked(self) -> dict[str, Any]:
        request = self.request
        return {
            "question": self.question,
            "call": None if request is None else request.as_call(),
            "command": None if request is None else request.as_command(self.table.called),
        }

    def _retold(self) -> Answer:
        # What was worked out beside it was said in the voice before.
        return replace(super(Answer, self)._retold(), _kept={})

    def _summed(self, length: str, technical: bool) -> Summary:
        if self.found is None:
            instead = () if self.asked is not None else self.alternatives
            return refused_summary(self.problem or self.reading.problem, instead)
        return self.found.summary(length, technical=technical)

    def _heading(self) -> str:
        return "\n".join([self.question, *account_of(self.as_read)])

    def _caveats(self) -> list[str]:
        made = [self.joined] if self.joined else []
        made += list(self.reading.notes)
        return made + ([] if self.found is None else self.found.caveats())

    def to_frame(self) -> pd.DataFrame:
        """The figures of the result; an empty frame where there is none."""
        if self.found is not None:
            return self.found.to_frame()
        import pandas as pd

        return pd.DataFrame()

    @in_voice
    def tables(self) -> tuple[TextTable, ...]:
        """The figures as tables of text."""
        return () if self.found is None else self.found.tables()

    def _figures(self) -> dict[str, Any]:
        made: dict[str, Any] = {
            "status": self.status,
            "reading": self.as_read or self.reading.problem,
            "sql": self.sql,
            "answer": self._answer(),
            "sentence": self.sentence,
            "unread": list(self.unread),
            "alternatives": list(self.alternatives),
            "next": list(self.next),
            "trace": [{"words": one.words, "meaning": one.meaning, "kind": one.kind} for one in self.reading.trace],
        }
        if "beside" in self._kept:
            made["beside"] = [finding.to_dict() for finding in self.beside()]
        return made

    def _answer(self) -> dict[str, Any] | None:
        """The value with its unit, the rows, or the findings."""
        found = self.found
        if found is None:
            return None
        figures = dict(found._figures())
        value = getattr(found, "value", None)
        if value is not None and len(figures.get("columns", ())) == 1:
            measure = found.result.measure  # type: ignore[attr-defined]
            return {"value": value, "unit": measure.unit}
        return figures

    @in_voice
    def chart(self, *, ax: Axes | None = None) -> Chart:
        """The chart of the result. Raises LookupError where one helps nobody."""
        with onto(ax):
            if self.found is None:
                raise LookupError("there is no answer to draw")
            colours = dict(self.asked.colours) if self.asked is not None else {}
            with sharing(Palette(colours)):
                return self.found.chart()

    @in_voice
    @in_one_palette
    def charts(self) -> tuple[Chart, ...]:
        """All charts of the result."""
        return () if self.found is None else self.found.charts()

    def _pages(self, title: str | None) -> Model:
        if self.found is None:
            raise RequestError("The question", self.question, "one that can be read; nothing was answered")
        return self.found._pages(title)

    @in_voice
    @in_one_palette
    def report(self, title: str | None = None, *, pages: str | None = None) -> Report:
        """The answer as a page, or, with `pages`, a page for each label of a column. Raises RequestError where nothing
        was answered, or for a column that has no labels."""
        model = self._pages(title or self.question.strip().rstrip("?").capitalize())
        if pages is not None:
            from .answer_pages import with_pages

            model = with_pages(self, model, pages)
        return Report(model=model, data=self.to_dict, frame=self.to_frame)


def answer_of(
    table: Table,
    reading: Reading,
    *,
    joined: str = "",
    carried: tuple[str, ...] = (),
    progress: Callable[[str], None] | None = None,
) -> Answer:
    """The answer to a question that was read; what the data cannot give is said, never raised."""
    with speaking(replace(voice(), rows=row_noun(table))):
        if reading.call is None:
            return Answer(table=table, reading=reading, found=None, joined=joined)
        try:
            found: Result = request_for(reading.call.name, table, reading.call.arguments).run(progress)
        except AlmanacError as problem:
            return Answer(table=table, reading=reading, found=None, problem=str(problem), joined=joined)
        return Answer(table=table, reading=reading, found=found, joined=joined, carried=carried)


def _beside(table: Table, asked: Asked) -> tuple[Finding, ...]:
    """Findings of a scan of the measure that was asked about, within its conditions."""
    from ..asking.lexicon import lexicon
    from ..asking.measuring import sql_of

    measures = tuple(
        sql_of(one, table, lexicon().averaged)
        for one in asked.measures
        if one.column in table.names and not one.condition
    )[:1]
    if not measures or "median" in measures[0] or table.minimum > 1:
        return ()
    key = ("beside", measures, asked.where)
    if key not in table._cache:
        try:
            arguments = {"measures": measures} | ({"where": asked.where} if asked.where else {})
            table._cache[key] = request_for("scan", table, arguments).run().findings
        except AlmanacError:
            table._cache[key] = ()
    return tuple(table._cache[key][:_MOST_BESIDE])


@voiced
def ask(
    source: Any,
    question: str,
    *,
    progress: Callable[[str], None] | None = None,
    locale: str | None = None,
    names: Mapping[str, str] | None = None,
) -> Answer:
    """Answer a question in plain English about a table.

    Parameters
    ----------
    source
        Anything `ga.read` takes, or a `Table`. Of a workbook or database file whose tables lead to each other by a key,
        the longest table with the columns of those it leads to.
    question
        In English: "which route carried most passengers in 2025?", "why did revenue fall in March?". "Last year" counts
        from the last day of the data.
    progress
        Called with a line of text: what is being done, how far it is, how long it will take.
    locale, names
        The language of the answer, and what its columns are called there (see `speaking`); of the caller by default.

    Returns
    -------
    Answer
        The sentence, figures, chart and SQL, how each word was read, and what may be asked next. A question that cannot
        be read for sure is refused (`status`), with what can be asked instead; it is never guessed at. What is missing
        takes no part, as in the call that answers.

    Raises
    ------
    AlmanacError
        One of its subclasses, where the source cannot be read. A question never raises.
    """
    table, joined, _ = table_of(source)
    return answer_of(table, read(question, table), joined=joined, progress=progress)
