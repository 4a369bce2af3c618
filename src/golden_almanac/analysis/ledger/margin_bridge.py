"""How the margin moved between two spans, line by line: in money, and in points of revenue.

Of money, revenue and every line of cost count with their change; of the margin's share of revenue, every line of cost
counts with the change of its own share. Both add up: amounts are whole numbers of their last decimal until they are
told.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from ...engine.arrow_arrays import floats
from ...findings.known_notes import Note
from ...sql.expressions import quote_name, quote_value
from ...support.errors import PeriodError
from ...tables import Period, Role
from ..change.compared_periods import check_apart, span_of
from .account_months import AccountMonths
from .account_questions import Base
from .questions_asked import LedgerQuestion

Floats = npt.NDArray[np.float64]
#: Lines that get a story; labels that a column may have to tell one; the part of a change that one label must make.
_TOLD, _LABELS, _MOST_OF = 5, 60, 0.5
_YEAR = 12


@dataclass(frozen=True, slots=True, kw_only=True)
class LineSlice:
    """The label that makes most of a line's change: in money, as it moves the margin."""

    column: str
    label: str
    money: float


@dataclass(frozen=True, slots=True, kw_only=True)
class BridgeLine:
    """A line of the bridge: `before` and `now` in money as they move the margin (costs below nought), `money` the
    change, `points` the change of its share of revenue; the `slice_` that makes most of it, the `questions` open on it
    within the two spans, the `notes` that overlap with them."""

    account: str
    revenue: bool
    before: float
    now: float
    money: float
    points: float
    slice_: LineSlice | None = None
    questions: tuple[LedgerQuestion, ...] = ()
    notes: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class MarginBridge:
    """From the margin of `baseline` to that of `period`: the lines, those that moved it most first; `revenue` and
    `margin` before and now, in money; `sql` gives each line's two amounts as they are posted."""

    period: Period
    baseline: Period
    revenue: tuple[float, float]
    margin: tuple[float, float]
    lines: tuple[BridgeLine, ...]
    signed: bool
    sql: str

    @property
    def share(self) -> tuple[float, float]:
        """The margin as a share of revenue, before and now."""
        return self.margin[0] / self.revenue[0], self.margin[1] / self.revenue[1]


def bridge_of(
    books: AccountMonths,
    base: Base,
    questions: Sequence[LedgerQuestion],
    notes: Sequence[Note] = (),
    period: str | None = None,
    baseline: str | None = None,
) -> MarginBridge | None:
    """The bridge; None where there is no line beside revenue, no revenue in a span, or where all accounts add up to
    nought, so that there is no margin. Raises PeriodError for spans that there are not."""
    now, then = _spans(books, period, baseline)
    places = [[_place(books, span.start), _place(books, span.end) + 1] for span in (then, now)]
    rows = [books.place(name) for name in base.names]
    rest = [row for row in range(len(books.names)) if row not in rows]
    if not rest:
        return None
    # Whole numbers of the last decimal add up to the last digit.
    scale = books.scale or 1
    sums = np.array([(books.amounts[:, first:past] * scale).sum(axis=1) for first, past in places])
    sums = np.round(sums) if books.scale else sums
    side = 1.0 if sums[:, rows].sum() >= 0 else -1.0
    signed = bool(side * sums[:, rest].sum() < 0)
    effects = np.where(np.isin(np.arange(len(books.names)), rows), side, side if signed else -side) * sums
    revenue, margin = effects[:, rows].sum(axis=1), effects.sum(axis=1)
    turnover = np.abs(effects).sum(axis=1)
    if (revenue <= 0).any() or (np.abs(margin) <= 1e-6 * turnover).all():
        return None
    made = [
        BridgeLine(
            account=books.names[row],
            revenue=row in rows,
            before=float(effects[0, row]) / scale,
            now=float(effects[1, row]) / scale,
            money=float(effects[1, row] - effects[0, row]) / scale,
            points=0.0 if row in rows
            else 100 * float(effects[1, row] / revenue[1] - effects[0, row] / revenue[0]),
        )
        for row in (*rows, *rest)
        if effects[:, row].any()
    ]  # fmt: skip
    made.sort(key=lambda line: (not line.revenue, -abs(line.points), line.account))
    stories = _slices(books, [line.account for line in made[: _TOLD + len(rows)]], now, then)
    turn = {True: side, False: side if signed else -side}
    lines = tuple(
        _with_story(line, stories.get(line.account), turn[line.revenue], questions, notes, now, then, books)
        for line in made
    )
    return MarginBridge(
        period=now,
        baseline=then,
        revenue=(float(revenue[0]) / scale, float(revenue[1]) / scale),
        margin=(float(margin[0]) / scale, float(margin[1]) / scale),
        lines=lines,
        signed=signed,
        sql=_check(books, now, then),
    )


def _spans(books: AccountMonths, period: str | None, baseline: str | None) -> tuple[Period, Period]:
    line = books.line
    size = _YEAR if books.count >= 2 * _YEAR and line.grain.value == "month" else 1
    last = books.span(books.count - size, books.count - 1)
    now = last if period is None else span_of(period, line)
    if baseline is None:
        end = _place(books, now.start) - 1
        wide = _place(books, now.end) - end
        if end - wide + 1 < 0:
            raise PeriodError(f"There is no span as long as {period or 'the last'} before it. Name the baseline.")
        then = books.span(end - wide + 1, end)
    else:
        then = span_of(baseline, line)
    for span, said in ((now, period), (then, baseline)):
        low, high = _place(books, span.start), _place(books, span.end)
        if low < 0 or high >= books.count:
            raise PeriodError(
                f"{said or 'The span'} does not lie within the complete periods, {books.period(0).start} to "
                f"{books.period(books.count - 1).end}."
            )  # fmt: skip
        if (books.period(low).start, books.period(high).end) != (span.start, span.end):
            raise PeriodError(f"{said} cuts a {line.grain.value}: a margin is bridged between whole ones.")
    check_apart(now, then)
    return now, then


def _place(books: AccountMonths, day: np.datetime64) -> int:
    return int(books.places(np.array([day]))[0])


def _check(books: AccountMonths, now: Period, then: Period) -> str:
    """Each account's amounts of both spans."""
    table = books.table
    name, condition = quote_name(books.account.name), "" if table.where is None else f" WHERE {table.where}"
    sums = ", ".join(
        f"sum(CASE WHEN {books.within(span)} THEN {books.amount_sql} ELSE 0 END) AS {called}"
        for span, called in ((then, '"before"'), (now, '"now"'))
    )
    return f"SELECT {name} AS account, {sums} FROM source{condition} GROUP BY 1 ORDER BY 1"


def _slices(
    books: AccountMonths, accounts: Sequence[str], now: Period, then: Period
) -> dict[str, LineSlice]:  # fmt: skip
    """Of each account the label, of any column, that makes most of its change, as posted."""
    table = books.table
    best: dict[str, LineSlice] = {}
    own = ", ".join(map(quote_value, accounts))
    for column in table.with_role(Role.DIMENSION):
        if column.name in (books.account.name, books.when.name) or column.type != "text":
            continue
        labels = table.labels(column.name)
        if not 2 <= len(labels) <= _LABELS:
            continue
        sums = ", ".join(
            f"{books.sum_sql(f'CASE WHEN {books.within(span)} THEN {books.amount_sql} ELSE 0 END')} AS s{place}"
            for place, span in enumerate((then, now))
        )
        found = table.store.query(
            f"SELECT {books.name_sql} AS account, {table.label_sql(column.name)} AS label, {sums} "
            f"FROM source WHERE {books.name_sql} IN ({own}) GROUP BY 1, 2 ORDER BY 1, 2"
        )
        rows = list(zip(
            found.column("account").to_pylist(), found.column("label").to_pylist(), floats(found.column("s0")),
            floats(found.column("s1")), strict=True,
        ))  # fmt: skip
        for account in accounts:
            parts = [(label, before, after - before) for name, label, before, after in rows if name == account]
            made = _most_of(parts)
            if made is not None and (account not in best or abs(made[1]) < abs(best[account].money)):
                # The label that makes most of it with least beside: what names the change, not the whole.
                best[account] = LineSlice(column=column.name, label=made[0], money=made[1])
    return best


def _most_of(parts: Sequence[tuple[str | None, float, float]]) -> tuple[str, float] | None:
    """The label that makes most of a change, more than its part of the amounts; None where it is spread."""
    if len(parts) < 2:
        return None
    whole, before = sum(change for _, _, change in parts), sum(abs(amount) for _, amount, _ in parts)
    label, amount, change = max(parts, key=lambda part: (part[2] * np.sign(whole), part[0] or ""))
    if not whole or label is None or change / whole < _MOST_OF:
        return None
    part = abs(amount) / before if before else 0.0
    return (label, change) if part < 0.8 * min(change / whole, 1.0) else None


def _with_story(
    line: BridgeLine, slice_: LineSlice | None, side: float, questions: Sequence[LedgerQuestion],
    notes: Sequence[Note], now: Period, then: Period, books: AccountMonths,
) -> BridgeLine:  # fmt: skip
    def inside(one: LedgerQuestion) -> bool:
        return any(span.start <= one.period.end and span.end >= one.period.start for span in (now, then))

    own = tuple(one for one in questions if one.account == line.account and inside(one))
    known = tuple(
        note.told() for note in notes
        if note.where.get(books.account.name) == line.account and note.start <= now.end and note.end >= then.start
    )  # fmt: skip
    told = None if slice_ is None else replace(slice_, money=side * slice_.money)
    return replace(line, slice_=told, questions=own, notes=known)
