"""The SELECT that gives what a question is about again, over the source."""

from __future__ import annotations

from ...sql.expressions import quote_name
from .account_months import AccountMonths
from .questions_asked import LEAST_AMOUNT, ROUND, LedgerQuestion

#: Kinds whose figures come from all months of their account: these stand beside each other.
_BY_PERIOD = ("timing", "step", "drift", "begins", "stops")


def check_of(books: AccountMonths, one: LedgerQuestion) -> str:
    """Value and postings of a question; the months of its account where it is about several; postings that repeat;
    how many begin with each digit; how many are whole thousands, of those as large."""
    amount, condition = books.amount_sql, books.checked(one.where)
    if one.kind in _BY_PERIOD and one.account is not None:
        own = books.checked(books.table.equals(books.account.name, one.account))
        return (
            f"SELECT {books.period_sql} AS period, sum({amount}) AS value, count({amount}) AS postings FROM source "
            f"WHERE {own} GROUP BY 1 ORDER BY 1"
        )
    if one.kind == "repeated":
        return (
            f"SELECT {books.day_sql} AS day, {amount} AS amount, count(*) AS times FROM source WHERE {condition} "
            "GROUP BY 1, 2 HAVING count(*) > 1 ORDER BY 1, 2"
        )
    if one.kind in ("round", "digits"):
        own = "" if one.account is None else f" AND {books.table.equals(books.account.name, one.account)}"
        size, name = f"abs({amount})", quote_name(books.when.name)
        kept = books.checked(f"{size} >= {ROUND if one.kind == 'round' else LEAST_AMOUNT}{own} AND {name} IS NOT NULL")
        if one.kind == "round":
            whole = f"CASE WHEN {size} / {ROUND} = floor({size} / {ROUND}) THEN 1 ELSE 0 END"
            return f"SELECT sum({whole}) AS whole_thousands, count(*) AS postings FROM source WHERE {kept}"
        digit = f"CAST(floor({size} / power(10, floor(log10({size})))) AS INTEGER)"
        return f"SELECT {digit} AS digit, count(*) AS postings FROM source WHERE {kept} GROUP BY 1 ORDER BY 1"
    return f"SELECT sum({amount}) AS value, count({amount}) AS postings FROM source WHERE {condition}"
