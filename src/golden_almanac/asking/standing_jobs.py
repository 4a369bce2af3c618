"""Questions that a standing job answers: key figures at a glance, who stays, a review of the accounts."""

from __future__ import annotations

from ..tables import Column, Role, Table
from . import measuring
from .asked import Asked, Problem
from .clauses import Parts, aside, conditions, pair_of
from .parse import Parse
from .words import fold

#: Words of columns that name those who come again, of the dates on which they joined, and of accounts.
_MEMBERS = ("member", "customer", "client", "user", "pass", "subscriber", "holder", "account_id", "patient", "guest")
_JOINED = ("joined", "join", "signup", "sign_up", "registered", "since", "first")
_ACCOUNTS = ("account", "konto", "cuenta", "compte", "ledger")


def glance(parse: Parse, parts: Parts, intent: str) -> Asked:
    """ "key figures of 2025-08", "should we look at anything"."""
    aside(parse, "comparing", "change")
    found = measuring.measures(parse)
    if len(parts.periods) > 1:
        raise Problem("Key figures are of one span; name one.", "two spans")
    period, _ = pair_of(parts)
    return Asked(intent="glance", measures=tuple(found), filters=tuple(parts.filters), period=period)


def staying(parse: Parse, parts: Parts, intent: str) -> Asked:
    """ "how many pass holders stay", "retention of customers"."""
    aside(parse, "aggregate", "share", "rows")
    if parse.table.with_role(Role.TIME) == []:
        raise Problem("Who stays can only be told of a table with dates.", "no dates")
    known = _members(parse.table)
    member = _named(parse, known) or (known[0] if known else None)
    if member is None:
        raise Problem("Which column names those who stay or leave? No column does.", "no members")
    return Asked(intent="staying", by=(member,), filters=conditions(parse, parts))


def books(parse: Parse, parts: Parts, intent: str) -> Asked:
    """ "review the accounts", "what should I ask the bookkeeper"."""
    aside(parse, "aggregate", "unusual")
    known = _accounts(parse.table)
    account = _named(parse, known) or (known[0] if known else None)
    if account is None:
        raise Problem("Which column holds the accounts? No column is called so.", "no accounts")
    return Asked(intent="books", by=(account,), filters=conditions(parse, parts))


def _named(parse: Parse, known: list[str]) -> str | None:
    """The first of some columns that is named, and the others set aside; "by" before it says nothing more. Any other
    column is left, so that the question is refused: routes do not lapse."""
    named = []
    for place in parse.free("column"):
        column = parse.column(place)
        if column is not None and column.name in known:
            before = parse.back(place)
            if parse.kind(before) == "by":
                parse.use(before, "by")
            parse.use(place, f"column {column.name}")
            named.append(column.name)
    return named[0] if named else None


def _members(table: Table) -> list[str]:
    """The columns that may name those who come again, the likeliest first: by their words, else by what identifiers
    look like."""
    texts = [
        one for one in table.columns
        if one.role in (Role.KEY, Role.TEXT, Role.DIMENSION) and 1 < one.distinct < table.rows and one.type != "boolean"
    ]  # fmt: skip
    called = [one for one in texts if any(word in fold(one.name) for word in _MEMBERS)]
    ids = [one for one in texts if fold(one.name).endswith(("_id", " id", "nr", "number")) or one.role is Role.KEY]
    return [one.name for one in sorted(called or ids, key=lambda one: -one.distinct)]


def _accounts(table: Table) -> list[str]:
    """The columns of accounts, by their names."""
    return [
        one.name for one in table.columns
        if any(word in fold(one.name) for word in _ACCOUNTS) and one.type == "text"
    ]  # fmt: skip


def dates_of(table: Table) -> tuple[str, str | None]:
    """The dates of activity, and those of joining where a column is called so."""
    times = table.with_role(Role.TIME)
    joined = [one for one in times if any(word in fold(one.name) for word in _JOINED)]
    rest: list[Column] = [one for one in times if one not in joined] or times
    active = max(rest, key=lambda one: one.distinct)
    return active.name, joined[0].name if joined and joined[0] != active else None
