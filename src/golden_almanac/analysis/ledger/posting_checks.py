"""What single postings ask: posted more than once, with another sign, in round amounts, with odd first digits, with
debits that do not equal credits. Each is one statement over the rows."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from math import fsum
from typing import Any

import numpy as np
import numpy.typing as npt

from ...engine.arrow_arrays import days, floats, wholes
from ...sql.expressions import quote_name, quote_value
from .account_months import AccountMonths
from .questions_asked import LEAST_AMOUNT, ROUND, LedgerQuestion

Floats = npt.NDArray[np.float64]
#: Months in which an account may have equal postings on one day, before that is its habit.
_HABIT = 2
#: Postings of an account from which a rare sign is told, the share up to which it is rare, days within which an equal
#: posting cancels another.
_SIGNED, _RARE, _CANCELS = 24, 0.02, 62
#: A heap of round amounts needs so many beyond what others let expect, and so sure, and so many different ones.
_HEAP, _SURE, _KINDS = 10, 0.001, 6
#: First digits: postings; orders of magnitude that they spread over, as a standard deviation (amounts spread evenly
#: over three orders have 0.87); mean absolute deviation (Nigrini 2012: beyond 0.015 they do not conform).
_MANY, _ORDERS, _APART = 300, 0.75, 0.015
#: Postings a month from which they are looked at one by one.
_SINGLE = 3
#: Rows that are fetched of one kind, at most.
_FETCHED = 2_000
#: What does not add up by less than half a cent is rounding.
_NOTHING = 0.005


def repeated(books: AccountMonths) -> Iterator[LedgerQuestion]:
    """Postings of one account, day and amount that stand there more than once, of accounts in which that is rare."""
    day, name = books.day_sql, books.name_sql
    found = books.table.store.query(
        f"SELECT account, period, {books.sum_sql('amount * (times - 1)')} AS extra, "
        "CAST(sum(times - 1) AS BIGINT) AS postings FROM ("
        f"SELECT {name} AS account, {day} AS day, min({books.period_sql}) AS period, {books.amount_sql} AS amount, "
        f"count(*) AS times FROM source WHERE {quote_name(books.account.name)} IS NOT NULL "
        f"AND {quote_name(books.when.name)} IS NOT NULL GROUP BY 1, 2, 4 HAVING count(*) > 1) AS twice "
        "WHERE amount IS NOT NULL AND amount <> 0 GROUP BY 1, 2 ORDER BY 1, 2"
    )
    rows = [
        (account, place, extra, postings)
        for account, place, extra, postings in zip(
            found.column("account").to_pylist(), _places(books, found.column("period")),
            floats(found.column("extra")), wholes(found.column("postings")), strict=True,
        )
        if 0 <= place < books.count
    ]  # fmt: skip
    months: dict[str, int] = {}
    for account, _, _, _ in rows:
        months[account] = months.get(account, 0) + 1
    for account, place, extra, postings in rows:
        if months[account] > _HABIT:
            continue
        period = books.period(int(place))
        yield LedgerQuestion(
            kind="repeated",
            account=account,
            period=period,
            amount=float(extra),
            value=float(books.amounts[books.names.index(account), place]),
            postings=int(postings),
            where=books.within(period, account),
        )


def _places(books: AccountMonths, column: Any) -> npt.NDArray[np.int64]:
    import pyarrow as pa

    return books.places(days(column.cast(pa.date32())))


def opposite(books: AccountMonths) -> Iterator[LedgerQuestion]:
    """Postings with another sign than all but a few of their account, no smaller than its usual one, that cancel
    none."""
    name, amount = books.name_sql, books.amount_sql
    told = books.table.store.query(
        f"SELECT {name} AS account, count(*) AS postings, "
        f"CAST(sum(CASE WHEN {amount} < 0 THEN 1 ELSE 0 END) AS BIGINT) AS below, "
        f"sum(abs({amount})) AS size FROM source WHERE {quote_name(books.account.name)} IS NOT NULL "
        f"AND {amount} <> 0 GROUP BY 1"
    )
    parts = []
    for account, postings, below, size in zip(
        told.column("account").to_pylist(), wholes(told.column("postings")), wholes(told.column("below")),
        floats(told.column("size")), strict=True,
    ):  # fmt: skip
        rare = min(int(below), int(postings) - int(below))
        if postings < _SIGNED or not 0 < rare <= max(1, _RARE * postings):
            continue
        sign = "<" if below == rare else ">"
        own = books.table.equals(books.account.name, account)
        # A little below the mean: where all are alike, it is not known to the last digit.
        parts.append(f"({own} AND {amount} {sign} 0 AND abs({amount}) >= {0.999 * float(size / postings)!r})")
    if not parts:
        return
    day = books.day_sql
    # As many as a reader would look at: accounts beyond are told by their months.
    found = books.table.store.query(
        f"SELECT {name} AS account, {day} AS day, {books.period_sql} AS period, {amount} AS amount FROM source "
        f"WHERE {' OR '.join(parts[:200])} ORDER BY 1, 2, 4 LIMIT {_FETCHED}"
    )
    rows = list(zip(
        found.column("account").to_pylist(), found.column("day").to_pylist(), _places(books, found.column("period")),
        floats(found.column("amount")), strict=True,
    ))  # fmt: skip
    cancelled = _cancelled(books, rows)
    alone: dict[tuple[str, int], list[float]] = {}
    for (account, _, place, size), gone in zip(rows, cancelled, strict=True):
        if not gone and 0 <= place < books.count:
            alone.setdefault((account, int(place)), []).append(float(size))
    for (account, place), sizes in sorted(alone.items()):
        period, total = books.period(place), fsum(sizes)
        own = ", ".join(sorted({repr(size) for size in sizes}))
        yield LedgerQuestion(
            kind="opposite",
            account=account,
            period=period,
            # Against the same amount with the usual sign.
            amount=2 * total,
            value=total,
            usual=-total,
            postings=len(sizes),
            where=f"{books.within(period, account)} AND {books.amount_sql} IN ({own})",
        )


def _cancelled(books: AccountMonths, rows: Sequence[tuple[str, Any, Any, float]]) -> list[bool]:
    """Of postings, whether an equal one with the other sign lies within two months of it."""
    if not rows:
        return []
    name, amount = books.name_sql, books.amount_sql
    day = books.day_sql
    accounts = ", ".join(quote_value(one) for one in sorted({row[0] for row in rows}))
    sizes = ", ".join(sorted({repr(-float(row[3])) for row in rows}))
    found = books.table.store.query(
        f"SELECT {name} AS account, {day} AS day, {amount} AS amount FROM source "
        f"WHERE {name} IN ({accounts}) AND {amount} IN ({sizes})"
    )
    known: dict[tuple[str, float], list[Any]] = {}
    for account, on, size in zip(
        found.column("account").to_pylist(), found.column("day").to_pylist(), floats(found.column("amount")),
        strict=True,
    ):  # fmt: skip
        known.setdefault((account, float(size)), []).append(on)
    return [
        any(abs((on - other).days) <= _CANCELS for other in known.get((account, -float(size)), []))
        for account, on, _, size in rows
    ]


@dataclass(frozen=True, slots=True, eq=False)
class _Sizes:
    """Of each account, by its size from `LEAST_AMOUNT` on: postings by first digit, shape (accounts, 9), how many are
    `large` and of these `round`, and how many orders of magnitude they spread over (a standard deviation)."""

    names: tuple[str, ...]
    digits: Floats
    large: Floats
    round: Floats
    orders: Floats
    whole: float


def heaps(books: AccountMonths) -> Iterator[LedgerQuestion]:
    """Accounts in which round amounts stand far oftener than in the others, and first digits, of accounts and of the
    whole, that are not as they are where amounts grow freely (Newcomb 1881, Benford 1938)."""
    sizes = _sizes(books)
    yield from _round(books, sizes)
    # Of monthly sums there are as many as months: how they begin is the same number over and over.
    if books.postings.sum() >= _SINGLE * (books.postings > 0).sum():
        yield from _digits(books, sizes)


def _whole(size: str) -> str:
    return f"{size} >= {ROUND} AND {size} / {ROUND} = floor({size} / {ROUND})"


def _sizes(books: AccountMonths) -> _Sizes:
    name, size = books.name_sql, f"abs({books.amount_sql})"
    found = books.table.store.query(
        "SELECT account, CAST(floor(size / power(10, floor(log10(size)))) AS INTEGER) AS digit, count(*) AS postings, "
        f"CAST(sum(CASE WHEN size >= {ROUND} THEN 1 ELSE 0 END) AS BIGINT) AS large, "
        f"CAST(sum(CASE WHEN {_whole('size')} THEN 1 ELSE 0 END) AS BIGINT) AS round, "
        "sum(log10(size)) AS logs, sum(log10(size) * log10(size)) AS squares "
        f"FROM (SELECT {name} AS account, CAST({size} AS DOUBLE) AS size "
        f"FROM source WHERE {quote_name(books.account.name)} IS NOT NULL AND {size} >= {LEAST_AMOUNT}) AS sizes "
        "GROUP BY 1, 2"
    )
    labels = found.column("account").to_pylist()
    names = tuple(sorted(set(labels)))
    place = {label: at for at, label in enumerate(names)}
    row = np.array([place[one] for one in labels], dtype=np.int64)
    digit = np.clip(wholes(found.column("digit")), 1, 9) - 1
    digits = np.zeros((len(names), 9))
    np.add.at(digits, (row, digit), wholes(found.column("postings")))

    def summed(column: str) -> Floats:
        return np.bincount(row, weights=floats(found.column(column)), minlength=len(names)).astype(np.float64)

    logs, squares, n = summed("logs"), summed("squares"), digits.sum(axis=1)
    spread = _spread(n, logs, squares)
    whole = _spread(*(np.array([one.sum()]) for one in (n, logs, squares)))
    return _Sizes(names, digits, summed("large"), summed("round"), spread, float(whole[0]) if names else 0.0)


def _spread(n: Floats, sums: Floats, squares: Floats) -> Floats:
    """The standard deviation of values by their number, sum and sum of squares."""
    mean = sums / np.maximum(n, 1)
    return np.asarray(np.sqrt(np.maximum(squares / np.maximum(n, 1) - mean**2, 0.0)))


def _round(books: AccountMonths, sizes: _Sizes) -> Iterator[LedgerQuestion]:
    from scipy.special import betainc

    span, size = books.span(0, books.count - 1), f"abs({books.amount_sql})"
    for account, n, seen in zip(sizes.names, sizes.large, sizes.round, strict=True):
        usual = float((sizes.round.sum() - seen + 1) / (sizes.large.sum() - n + 2))
        # Binomial: so many or more by chance, as an incomplete beta function.
        p = float(betainc(seen, n - seen + 1, min(usual, 1.0))) * len(sizes.names) if seen else 1.0
        if seen - usual * n < _HEAP or seen < 3 * usual * n or p > _SURE:
            continue
        # The same amount every month is a contract, not an estimate.
        if _kinds(books, account) < _KINDS:
            continue
        yield LedgerQuestion(
            kind="round", account=account, period=span, amount=0.0, value=float(seen / n), usual=usual, p=p,
            postings=int(seen), where=f"{books.within(span, account)} AND {_whole(size)}",
        )  # fmt: skip


def _digits(books: AccountMonths, sizes: _Sizes) -> Iterator[LedgerQuestion]:
    from scipy.special import chdtrc

    span, size = books.span(0, books.count - 1), f"abs({books.amount_sql})"
    expected = np.log10(1 + 1 / np.arange(1, 10))
    looked: list[tuple[str | None, Floats, float]] = list(zip(sizes.names, sizes.digits, sizes.orders, strict=True))
    if looked:
        looked.append((None, sizes.digits.sum(axis=0), sizes.whole))
    for account, counts, orders in looked:
        n = float(counts.sum())
        if n < _MANY or orders < _ORDERS:
            continue
        apart = counts / n - expected
        p = float(chdtrc(8, float((n * apart**2 / expected).sum()))) * len(looked)
        if float(np.abs(apart).mean()) <= _APART or p > _SURE:
            continue
        digit = int(np.argmax(apart))
        yield LedgerQuestion(
            kind="digits", account=account, period=span, amount=0.0, value=float(counts[digit] / n),
            usual=float(expected[digit]), p=p, postings=int(counts[digit]), monthly=float(digit + 1),
            where=f"{books.within(span, account)} AND {size} >= {LEAST_AMOUNT} AND "
            f"floor({size} / power(10, floor(log10({size})))) = {digit + 1}",
        )  # fmt: skip


def _kinds(books: AccountMonths, account: str) -> int:
    """How many different round amounts an account has."""
    found = books.table.store.query(
        f"SELECT count(DISTINCT size) AS kinds FROM (SELECT abs({books.amount_sql}) AS size FROM source "
        f"WHERE {books.table.equals(books.account.name, account)}) AS sizes WHERE {_whole('size')}"
    )
    return int(wholes(found.column("kinds"))[0])


def unbalanced(books: AccountMonths, entry: str | None) -> Iterator[LedgerQuestion]:
    """Periods, or entries, whose debits do not equal their credits: of a ledger that has both, or whose amounts add up
    to nought in all but a few periods."""
    sums = books.amounts.sum(axis=0)
    turnover = np.abs(books.amounts).sum(axis=0)
    off = np.flatnonzero(np.abs(sums) > np.maximum(_NOTHING, 1e-9 * turnover))
    both = len(books.columns) == 2
    if entry is not None:
        yield from _entries(books, entry)
        return
    if not both and off.size > max(1, 0.06 * books.count):
        return
    if both and off.size > 0.5 * books.count:
        # Not the whole of the books: what is missing is no slip of a month.
        return
    for place in off:
        period = books.period(int(place))
        yield LedgerQuestion(
            kind="unbalanced", account=None, period=period, amount=float(sums[place]), value=float(sums[place]),
            usual=0.0, postings=int(books.postings[:, place].sum()), where=books.within(period),
        )  # fmt: skip


def _entries(books: AccountMonths, entry: str) -> Iterator[LedgerQuestion]:
    column = books.table.column(entry, "the entries")
    name, amount = books.table.label_sql(column.name), books.amount_sql
    found = books.table.store.query(
        f"SELECT {name} AS entry, min({books.period_sql}) AS period, {books.sum_sql(amount)} AS amount, "
        "count(*) AS postings "
        f"FROM source WHERE {quote_name(column.name)} IS NOT NULL GROUP BY 1 HAVING abs(sum({amount})) > {_NOTHING} "
        f"ORDER BY 3 DESC, 1 LIMIT {_FETCHED}"
    )
    for label, place, amount_, postings in zip(
        found.column("entry").to_pylist(), _places(books, found.column("period")), floats(found.column("amount")),
        wholes(found.column("postings")), strict=True,
    ):  # fmt: skip
        if 0 <= place < books.count:
            yield LedgerQuestion(
                kind="unbalanced", account=label, period=books.period(int(place)), amount=float(amount_),
                value=float(amount_), usual=0.0, postings=int(postings), where=books.table.equals(column.name, label),
            )  # fmt: skip
