"""`ga.review_ledger`: accounts month by month, what wants a question, and how the margin moved."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, ClassVar

from ..aggregation.measures import Measure, parse_measure
from ..analysis.ledger import LedgerQuestion, LedgerReview, MarginBridge, Materiality, bridge_of, check_of, review_of
from ..charts import Chart
from ..charts.caller_axes import onto
from ..charts.ledger_charts import draw_accounts, draw_bridge
from ..findings import Note
from ..reports import Report as Model
from ..sql.expressions import quote_name
from ..support.errors import RequestError
from ..tables import Table
from ..text import Summary
from ..text import ledger_sentences as said
from ..text.languages import say
from ..text.ledger_asking import asked, told
from ..text.text_tables import TextTable
from ..text.text_tables.ledger_tables import bridge_table, questions_table
from .request import Request, several
from .result import Result
from .result_language import in_one_palette, in_voice, voiced

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.axes import Axes


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class LedgerBooks(Result):
    """A ledger reviewed: `result` holds the questions, weightiest first, `margin` how the margin moved (None where
    there is none to tell), `money` the measure that its amounts are told in."""

    format: ClassVar[str] = "golden-almanac/ledger/1"

    result: LedgerReview
    margin: MarginBridge | None
    money: Measure

    @property
    def sql(self) -> str:
        """The SELECT that gives the amounts and postings of every account and period again."""
        books = self.result.books
        condition = "" if books.table.where is None else f" WHERE {books.table.where}"
        return (
            f"SELECT {quote_name(books.account.name)} AS account, {books.period_sql} AS period, "
            f"sum({books.amount_sql}) AS amount, count({books.amount_sql}) AS postings FROM source{condition} "
            "GROUP BY 1, 2 ORDER BY 1, 2"
        )

    def check_sql(self, question: LedgerQuestion) -> str:
        """The SELECT that gives what a question is about again."""
        return check_of(self.result.books, question)

    def _about(self) -> Table:
        return self.result.books.table

    def _asked(self) -> dict[str, Any]:
        found = self.result
        return {
            "account": found.books.account.name,
            "amount": list(found.books.columns),
            "period": found.books.when.name,
            "grain": found.books.line.grain.value,
            "base": None if found.base is None else list(found.base.names),
            "major": found.materiality.major,
            "minor": found.materiality.minor,
            "floor": found.materiality.floor,
        }

    def _summed(self, length: str, technical: bool) -> Summary:
        return said.ledger_summary(self.result, self.margin, self.money, length)

    def _heading(self) -> str:
        return f"Review of {self._about().name}, by {self.result.books.account.name}"

    def _caveats(self) -> list[str]:
        return said.ledger_caveats(self.result, self.margin)

    @in_voice
    def to_frame(self) -> pd.DataFrame:
        """One row a question: weight, kind, account, period and other (first days), amount, value, usual, low, high (of
        its 95% range), share (of the base, or of what is usual), p, q, postings, question."""
        import pandas as pd

        return pd.DataFrame([self._row(one) for one in self.result.questions], columns=list(_COLUMNS))

    def _row(self, one: LedgerQuestion) -> dict[str, Any]:
        return {
            "weight": one.weight, "kind": one.kind, "account": one.account, "period": str(one.period.start),
            "other": None if one.other is None else str(one.other.start), "amount": one.amount, "value": one.value,
            "usual": one.usual, "low": one.low, "high": one.high, "share": one.share, "p": one.p, "q": one.q,
            "postings": one.postings, "question": asked(one),
        }  # fmt: skip

    @in_voice
    def tables(self) -> tuple[TextTable, ...]:
        """A row a question; a row a line of the margin."""
        made = (questions_table(self.result, self.money),) if self.result.questions else ()
        return made if self.margin is None else (*made, bridge_table(self.margin, self.money))

    def _figures(self) -> dict[str, Any]:
        found, margin = self.result, self.margin
        return {
            "sql": self.sql,
            "questions": [
                {**self._row(one), "sentence": told(one, self.money), "sql": self.check_sql(one), "where": one.where}
                for one in found.questions
            ],
            "margin": None if margin is None else {
                "period": margin.period.to_dict(), "baseline": margin.baseline.to_dict(),
                "revenue": list(margin.revenue), "margin": list(margin.margin), "share": list(margin.share),
                "lines": [
                    {"account": line.account, "revenue": line.revenue, "before": line.before, "now": line.now,
                     "money": line.money, "points": line.points,
                     "sentence": said.line_sentence(line, margin, self.money),
                     "slice": None if line.slice_ is None else {
                         "column": line.slice_.column, "label": line.slice_.label, "money": line.slice_.money},
                     "open": [told(one, self.money) for one in line.questions], "notes": list(line.notes)}
                    for line in margin.lines
                ],
                "sql": margin.sql,
            },
            "not_judged": {"short": list(found.short), "single": list(found.lone), "skipped": found.skipped},
        }  # fmt: skip

    @in_voice
    def chart(self, *, ax: Axes | None = None) -> Chart:
        """The accounts that weigh most, beside what is usual for them; else the margin's bridge."""
        with onto(ax):
            try:
                return draw_accounts(self.result, self.money, self.headline.rstrip("."))
            except LookupError:
                if self.margin is None:
                    raise
                return self._bridge(self.margin)

    def _bridge(self, margin: MarginBridge) -> Chart:
        title = said.bridge_sentence(margin, self.money).rstrip(".")
        return draw_bridge(margin, self.money, title, say("Source: {name}", name=self._about().name))

    @in_voice
    @in_one_palette
    def charts(self) -> tuple[Chart, ...]:
        """The accounts, and the margin's bridge."""
        try:
            first: tuple[Chart, ...] = (draw_accounts(self.result, self.money, self.headline.rstrip(".")),)
        except LookupError:
            first = ()
        return first if self.margin is None else (*first, self._bridge(self.margin))

    def _pages(self, title: str | None) -> Model:
        from ..reports.ledger_report import ledger_report

        return ledger_report(
            self.result, self.margin, self.money, self.summary(), self.charts(), self.tables(), self.caveats(), title
        )


_COLUMNS = (
    "weight", "kind", "account", "period", "other", "amount", "value", "usual", "low", "high", "share", "p", "q",
    "postings", "question",
)  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class LedgerRequest(Request):
    """A review of a ledger; see `review_ledger` for the fields."""

    call: ClassVar[str] = "review_ledger"
    command: ClassVar[str] = "ledger"
    options: ClassVar[Mapping[str, str]] = {"grain": "-g", "where": "-w"}

    account: str
    amount: str | None = None
    period: str | None = None
    debit: str | None = None
    credit: str | None = None
    entry: str | None = None
    base: tuple[str, ...] | None = None
    major: float = 0.02
    minor: float = 0.005
    floor: float = 0.0
    since: str | None = None
    bridge: str | None = None
    baseline: str | None = None
    notes: tuple[Note, ...] | None = None
    grain: str | None = None

    def _answered(self, table: Table) -> LedgerBooks:
        found = review_of(
            table, account=self.account, amount=self.amount, when=self.period, debit=self.debit, credit=self.credit,
            entry=self.entry, base=self.base, grain=self.grain, since=self.since,
            materiality=Materiality(major=self.major, minor=self.minor, floor=self.floor),
        )  # fmt: skip
        margin = None
        if found.base is not None and found.base.values.sum() > 0:
            margin = bridge_of(found.books, found.base, found.questions, self.notes or (), self.bridge, self.baseline)
        if margin is None and (self.bridge or self.baseline):
            wanted = "of a ledger with accounts of revenue and of costs; name those of revenue as the base"
            raise RequestError("The bridge", self.bridge or self.baseline, wanted)
        names = [f"sum({quote_name(name)})" for name in found.books.columns]
        return LedgerBooks(result=found, margin=margin, money=parse_measure(" - ".join(names), table))


@voiced
def review_ledger(
    source: Any,
    account: str,
    amount: str | None = None,
    period: str | None = None,
    *,
    debit: str | None = None,
    credit: str | None = None,
    entry: str | None = None,
    base: Sequence[str] | str | None = None,
    major: float = 0.02,
    minor: float = 0.005,
    floor: float = 0.0,
    since: str | None = None,
    bridge: str | None = None,
    baseline: str | None = None,
    notes: Sequence[Note] | None = None,
    grain: str | None = None,
    where: str | None = None,
    progress: Callable[[str], None] | None = None,
    locale: str | None = None,
    names: Mapping[str, str] | None = None,
) -> LedgerBooks:
    """Review the accounts of a ledger month by month: what lies off the usual course of each, what is missing, stands
    twice, in the wrong month or with the wrong sign, each with a question to put to those who keep the books; and how
    the margin moved, line by line.

    Parameters
    ----------
    source
        Anything `ga.read` takes, or a `Table`: a row a posting, or a row an account and month, or months as columns.
        Missing amounts count as none.
    account
        The column of accounts.
    amount
        The column of signed amounts; by default one called amount or value.
    period
        The column of dates or periods; by default the one there is.
    debit, credit
        Two columns in place of `amount`: debits count up, credits down.
    entry
        The column of entries, of which debits and credits should be equal; else of each period.
    base
        Accounts that amounts are weighed against; by default those that are called revenue. Where there are none, what
        is usual for the account.
    major, minor
        From which share of the base of its month a question is major, or minor.
    floor
        Below which amount nothing is told.
    since
        A period: what lies before it is not asked about.
    bridge, baseline
        Two spans ("2025", "2025-Q3") whose margins are bridged; by default the last twelve months and the twelve
        before, or the last period and the one before.
    notes
        What people know (`read_notes`), set beside the lines of the margin that it is about.
    grain
        month (the default), quarter, year, week or day.
    where
        An SQL condition; only the rows that meet it take part.
    progress
        Called with a line of text: what is being done, how far it is, how long it will take.
    locale, names
        The language of the result, and what its columns are called there (see `speaking`); of the caller by default.

    Returns
    -------
    LedgerBooks
        Questions with amounts in the ledger's unit. The course of an account is its season and line by BIC, in
        logarithms where it has one sign, as a share of the base where that says clearly more; odd months, steps and
        drifts are sought as Chen & Liu (1993) do, with the memory of what is left, all accounts as one family
        (Benjamini & Hochberg 1995). First digits are set beside Newcomb (1881).

    Raises
    ------
    AlmanacError
        One of its subclasses: no dates, a column that holds no amounts, an account that there is not.
    """
    request = LedgerRequest(
        source=source, account=account, amount=amount, period=period, debit=debit, credit=credit, entry=entry,
        base=several(base), major=major, minor=minor, floor=floor, since=since, bridge=bridge, baseline=baseline,
        notes=None if notes is None else tuple(notes), grain=grain, where=where,
    )  # fmt: skip
    found: LedgerBooks = request.run(progress)
    return found
