"""Accounts by month: what was posted to each, summed exactly, and what its postings look like."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from ...aggregation.sql_sums import facts_of, number
from ...engine.arrow_arrays import days, floats, wholes
from ...sql.expressions import quote_name
from ...support.errors import ColumnError, PeriodError, RequestError, rather
from ...tables import Column, Period, Table, Timeline
from ..scan_pipeline import timeline_for

Floats = npt.NDArray[np.float64]
Counts = npt.NDArray[np.int64]
#: Names of columns that hold amounts and accounts, where none are named: those of a wide table, and the trade's words.
_AMOUNTS = ("amount", "value", "balance", "betrag", "importe", "montant")
#: Amounts with more decimals are added up as doubles.
_MOST_DECIMALS = 4
#: Accounts that are looked at, at most.
MOST_ACCOUNTS = 20_000


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class AccountMonths:
    """What was posted, shape (accounts, periods), over the complete periods of `line`: `amounts` with their sign and
    `postings`, how many; `scale` times an amount is a whole number (0: not of all). `day` whether postings carry days,
    not only periods. `amount_sql` is one posting's amount, for any row."""

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
    day: bool

    @property
    def count(self) -> int:
        """How many periods there are."""
        return int(self.amounts.shape[1])

    def period(self, place: int) -> Period:
        return self.line.period(self.line.complete.start + place)

    def span(self, first: int, last: int) -> Period:
        """From one period to another, both included, by their places."""
        return self.line.span(self.line.complete.start + first, self.line.complete.start + last)

    def place(self, name: str) -> int:
        """Where an account stands. Raises RequestError for one that there is not."""
        if name not in self.names:
            raise RequestError("The account", name, f"one there is; {rather(name, list(self.names), 'accounts')}")
        return self.names.index(name)

    def period_sql(self) -> str:
        """The first day of a row's period."""
        return f"CAST({self.line.calendar.sql(self.line.grain, quote_name(self.when.name))} AS DATE)"

    def within(self, period: Period, account: str | None = None) -> str:
        """The condition that picks the postings of a period, of one account or of all."""
        name = quote_name(self.when.name)
        parts = [f"CAST({name} AS DATE) BETWEEN DATE '{period.start}' AND DATE '{period.end}'"]
        if account is not None:
            parts.insert(0, self.table.equals(self.account.name, account))
        return " AND ".join(parts)


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
    decimals = facts_of(table, [sql])[sql].decimals
    exact = decimals is not None and decimals <= _MOST_DECIMALS
    scale = 10**decimals if exact and decimals is not None else 0
    cell = f"CAST(sum(CAST(round(({sql}) * {scale}) AS BIGINT)) AS DOUBLE)" if exact else f"sum({number(sql)})"
    period = f"CAST({line.calendar.sql(line.grain, quote_name(line.column))} AS DATE)"
    found = table.store.query(
        f"SELECT {table.label_sql(who.name)} AS account, {period} AS period, {cell} AS amount, "
        f"count({number(sql)}) AS postings FROM source WHERE {quote_name(who.name)} IS NOT NULL "
        f"AND {quote_name(line.column)} IS NOT NULL GROUP BY 1, 2"
    )
    names, amounts, postings = _laid_out(found, line, max(scale, 1))
    return AccountMonths(
        table=table,
        account=who,
        when=table.column(line.column),
        amount_sql=sql,
        columns=columns,
        line=line,
        names=names,
        amounts=amounts,
        postings=postings,
        scale=scale,
        day=table.day_counts(line.column)[0].size > line.count,
    )


def _line(table: Table, when: str | None, grain: str | None) -> Timeline:
    if when is not None and table.column(when, "the periods").type not in ("date", "datetime"):
        kind = table.column(when).type
        raise ColumnError(when, f"The column {when!r} holds {kind}, not dates or periods.", "Name dates.")
    line = timeline_for(table, when, grain or "month")
    if line is None:
        raise PeriodError(f"{table.name} has no dates, so no month can be told. Name the column of periods.")
    if line.complete_count < 2:
        raise PeriodError(
            f"There is {line.complete_count} complete {line.grain.value} in {line.column!r}; a review needs two at "
            "least."
        )  # fmt: skip
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


def _laid_out(found: Any, line: Timeline, scale: int) -> tuple[tuple[str, ...], Floats, Counts]:
    import pyarrow as pa

    labels = found.column("account").to_pylist()
    names = tuple(sorted(set(labels)))
    if len(names) > MOST_ACCOUNTS:
        raise RequestError("The accounts", f"{len(names)} labels", f"{MOST_ACCOUNTS} at most: name another column")
    place_of = {name: place for place, name in enumerate(names)}
    row = np.array([place_of[one] for one in labels], dtype=np.int64)
    number_ = line.calendar.number(line.grain, days(found.column("period").cast(pa.date32())))
    place = np.asarray(number_, dtype=np.int64) - line.first - line.complete.start
    count = line.complete_count
    inside = (place >= 0) & (place < count)
    amounts, postings = np.zeros((len(names), count)), np.zeros((len(names), count), dtype=np.int64)
    amounts[row[inside], place[inside]] = floats(found.column("amount"))[inside] / scale
    postings[row[inside], place[inside]] = wholes(found.column("postings"))[inside]
    return names, amounts, postings


def like(names: Sequence[str], words: Sequence[str]) -> list[int]:
    """The places of names that hold one of some words."""
    return [
        place for place, name in enumerate(names) if any(word in name.casefold() for word in words)
    ]  # fmt: skip
