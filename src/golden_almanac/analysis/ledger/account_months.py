"""Accounts by month: what was posted to each, summed exactly, of one scenario and one currency."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ...aggregation import PERIOD
from ...findings.checks import between
from ...sql.expressions import quote_name
from ...support.errors import ColumnError, PeriodError, RequestError
from ...tables import Column, Grain, Period, Table, Timeline
from ..one_kind import Note
from ..scan_pipeline import survey_of, timeline_for

Floats = npt.NDArray[np.float64]
Counts = npt.NDArray[np.int64]
#: Names of columns that hold amounts, where none are named: those of a wide table, and the trade's words.
_AMOUNTS = ("amount", "value", "balance", "betrag", "importe", "montant")
#: Decimals that amounts may have to be told as whole numbers of their last one.
_MOST_DECIMALS = 4
#: Periods of a year, where the place in it can be told.
_IN_A_YEAR = {Grain.MONTH: 12, Grain.QUARTER: 4}


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class AccountMonths:
    """What was posted, shape (accounts, periods), over the complete periods of `line`: `amounts` with their sign and
    `postings`, how many; `scale` times an amount is a whole number (0: not of all). `amount_sql` is one posting's
    amount, for any row of `table`, which holds one scenario and one currency; `notes` say what of the others."""

    table: Table
    account: Column
    when: Column
    amount_sql: str
    columns: tuple[str, ...]
    line: Timeline
    names: tuple[str, ...]
    amounts: Floats
    postings: Counts
    scale: int
    notes: tuple[Note, ...]

    @property
    def count(self) -> int:
        """How many periods there are."""
        return int(self.amounts.shape[1])

    @property
    def year(self) -> tuple[int, int]:
        """The place of the first period in its year, and how many of them make one; (0, 0) where no season is told."""
        size = _IN_A_YEAR.get(self.line.grain, 0)
        month = int(self.period(0).start.astype("datetime64[M]").astype(int)) % 12
        return (month * size // 12, size) if size else (0, 0)

    def period(self, place: int) -> Period:
        return self.line.period(self.line.complete.start + place)

    def span(self, first: int, last: int) -> Period:
        """From one period to another, both included, by their places."""
        return self.line.span(self.line.complete.start + first, self.line.complete.start + last)

    def places(self, days: npt.NDArray[np.datetime64]) -> Counts:
        """The places of the periods that days fall in; below nought and from `count` on where they are not complete."""
        return np.asarray(self.line.places(days) - self.line.complete.start, dtype=np.int64)

    def place(self, name: str) -> int:
        """Where an account stands. Raises RequestError for one that there is not."""
        if name not in self.names:
            raise RequestError.unknown("The account", name, list(self.names), "accounts")
        return self.names.index(name)

    @property
    def name_sql(self) -> str:
        """A row's account, as text."""
        return self.table.label_sql(self.account.name)

    @property
    def day_sql(self) -> str:
        return f"CAST({quote_name(self.when.name)} AS DATE)"

    @property
    def period_sql(self) -> str:
        """The first day of a row's period."""
        return f"CAST({self.line.calendar.sql(self.line.grain, quote_name(self.when.name))} AS DATE)"

    def sum_sql(self, amount: str) -> str:
        """A sum of amounts, the same whatever the order of the rows where they are whole numbers of a decimal."""
        if not self.scale:
            return f"sum({amount})"
        return f"CAST(sum(CAST(round(({amount}) * {self.scale}) AS BIGINT)) AS DOUBLE) / {self.scale}"

    def within(self, period: Period, account: str | None = None) -> str:
        """The condition that picks the postings of a period, of one account or of all."""
        inside = between(self.when.name, period)
        return inside if account is None else f"{self.table.equals(self.account.name, account)} AND {inside}"

    def checked(self, condition: str) -> str:
        """A condition, with the one that the rows meet already: for SQL over the source."""
        return condition if self.table.where is None else f"({self.table.where}) AND {condition}"


def account_months(
    table: Table,
    account: str,
    amount: str | None,
    when: str | None,
    *,
    debit: str | None = None,
    credit: str | None = None,
    grain: str | None = None,
) -> AccountMonths:
    """The accounts of a ledger by period. Raises ColumnError, RequestError, PeriodError."""
    who = table.column(account, "the accounts")
    sql, columns = _amount(table, amount, debit, credit)
    line = _line(table, when, grain)
    if who.name in (line.column, *columns):
        raise RequestError("The accounts", who.name, "another column than the amounts and the periods")
    survey = survey_of(table, measures=[f"sum({sql})"], by=[who.name], time=line.column, grain=line.grain.value)
    if survey.timeline is None or survey.timeline.complete_count < 2:
        raise PeriodError(
            f"There are fewer than two complete periods ({line.grain.value}); a review needs two at least."
        )
    cells, measure = survey.cells(who.name, PERIOD), survey.measures[0]
    kept = [place for place, name in enumerate(cells.labels[0]) if name is not None]
    complete = survey.timeline.complete
    part = measure.top[0][1]
    amounts = np.array(cells.linear(measure.top)[kept][:, complete])
    return AccountMonths(
        table=survey.table,
        account=survey.table.column(who.name),
        when=survey.table.column(line.column),
        amount_sql=part.sql if len(columns) == 1 else f"({part.sql})",
        columns=columns,
        line=survey.timeline,
        names=tuple(str(cells.labels[0][place]) for place in kept),
        amounts=amounts,
        postings=np.asarray(cells.parts[part].count[kept][:, complete], dtype=np.int64),
        scale=_scale(amounts),
        notes=survey.notes,
    )


def _scale(amounts: Floats) -> int:
    """What makes whole numbers of all amounts; 0 where nothing small does."""
    for decimals in range(_MOST_DECIMALS + 1):
        whole = amounts * 10**decimals
        if np.abs(whole - np.round(whole)).max(initial=0.0) < 1e-3 and np.abs(whole).max(initial=0.0) < 2**53:
            return int(10**decimals)
    return 0


def _line(table: Table, when: str | None, grain: str | None) -> Timeline:
    if when is not None and table.column(when, "the periods").type not in ("date", "datetime"):
        kind = table.column(when).type
        raise ColumnError(when, f"The column {when!r} holds {kind}, not dates or periods.", "Name dates.")
    line = timeline_for(table, when, grain or "month")
    if line is None:
        raise PeriodError(f"{table.name} has no dates, so no month can be told. Name the column of periods.")
    return line


def _amount(table: Table, amount: str | None, debit: str | None, credit: str | None) -> tuple[str, tuple[str, ...]]:
    """One posting's amount as SQL, and the columns that it is of: debits count up, credits down."""
    if (debit is None) != (credit is None):
        raise RequestError("Debit and credit", str(debit or credit), "both or neither: name the other column too")
    if debit is not None and credit is not None:
        if amount is not None:
            raise RequestError("The amount", amount, "left out where debit and credit are named")
        both = [_number(table, name) for name in (debit, credit)]
        up, down = (f"coalesce({quote_name(one.name)}, 0)" for one in both)
        return f"{up} - {down}", tuple(one.name for one in both)
    if amount is None:
        named = [one.name for one in table.columns if one.name.casefold() in _AMOUNTS and one.type == "number"]
        if not named:
            raise RequestError("The amounts", "not named", "a column: name it, or debit and credit")
        amount = named[0]
    found = _number(table, amount)
    return quote_name(found.name), (found.name,)


def _number(table: Table, name: str) -> Column:
    column = table.column(name, "the amounts")
    if column.type != "number":
        raise ColumnError(name, f"The column {name!r} holds {column.type}, not amounts.", "Name a column of numbers.")
    return column
