"""The review of a ledger: every account's questions, weighed by what is material, in the order of what is at stake."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ...support.errors import PeriodError, RequestError
from ...tables import Table
from .account_months import AccountMonths, account_months
from .account_paths import LEAST
from .account_questions import Base, Judged, account_questions, base_of, judged
from .posting_checks import heaps, opposite, repeated, unbalanced
from .questions_asked import Kind, LedgerQuestion, Weight

#: What accounts of revenue are called, and words of accounts beside them that are something else.
_REVENUE = ("revenue", "sales", "turnover", "umsatz", "erlös", "ventas", "ingresos", "chiffre d'affaires", "ventes")
_NOT = (
    "cost", "tax", "deferred", "accrued", "commission", "discount", "expense", "marketing", "kosten", "steuer", "coste",
    "gasto", "coût", "charge", "receivable", "unbilled", "return", "rebate",
)  # fmt: skip
#: Kinds that say what another kind of the same account and month says too, with more.
_OVER: dict[Kind, tuple[Kind, ...]] = {
    "repeated": ("twice", "movement"),
    "sign": ("opposite", "movement"),
    "opposite": ("movement",),
    "timing": ("movement", "twice"),
}
_ORDER: tuple[Weight, ...] = ("major", "minor", "small")


@dataclass(frozen=True, slots=True, kw_only=True)
class Materiality:
    """From which share of the base a question is `major` or `minor`; nothing below `floor`, in money, is told."""

    major: float = 0.02
    minor: float = 0.005
    floor: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class LedgerReview:
    """The questions, weightiest first; `base` what they are set against (None: what is usual for each account),
    `assumed` whether it was chosen by its name. `short` accounts have too few months to be judged, `lone` ones a single
    posting; `skipped` periods have no postings at all; `unfinished` whether a last period is left out."""

    books: AccountMonths
    accounts: tuple[Judged, ...]
    questions: tuple[LedgerQuestion, ...]
    base: Base | None
    assumed: bool
    materiality: Materiality
    short: tuple[str, ...]
    lone: tuple[str, ...]
    skipped: int
    unfinished: bool

    def of_weight(self, weight: Weight) -> tuple[LedgerQuestion, ...]:
        return tuple(one for one in self.questions if one.weight == weight)


def review_of(
    table: Table,
    *,
    account: str,
    amount: str | None,
    when: str | None,
    debit: str | None,
    credit: str | None,
    entry: str | None,
    base: Sequence[str] | None,
    materiality: Materiality,
    grain: str | None,
    since: str | None,
) -> LedgerReview:
    """The review of a ledger. Raises ColumnError, RequestError, PeriodError."""
    if table.minimum > 1:
        raise RequestError(
            "A review of a ledger", account, f"left out where groups of fewer than {table.minimum} rows are not shown: "
            "it looks at single postings"
        )  # fmt: skip
    if not 0 < materiality.minor <= materiality.major:
        raise RequestError(
            "The thresholds", f"{materiality.major} and {materiality.minor}", "above nought, minor first"
        )
    books = account_months(table, account, amount, when, debit=debit, credit=credit, grain=grain)
    against, assumed = _base(books, base)
    accounts = judged(books, against)
    asked = [
        *account_questions(books, accounts, against),
        *repeated(books),
        *opposite(books),
        *heaps(books),
        *unbalanced(books, entry),
    ]
    usual = {one.name: one.course for one in accounts}
    begin = _begin(books, since)
    weighed = [
        _weighed(books, one, against, materiality, None if (course := usual.get(one.account or "")) is None
                 else float(np.median(np.abs(course.usual))))
        for one in _merged(asked)
    ]  # fmt: skip
    kept = [
        one for one in weighed
        if (abs(one.amount) >= materiality.floor or one.kind in ("round", "digits"))
        and (begin is None or _reaches(one, begin))
    ]  # fmt: skip
    kept.sort(key=lambda one: (_ORDER.index(one.weight), -one.share, one.account or "", str(one.period.start)))
    totals = books.postings.sum(axis=1)
    held = (books.postings > 0).sum(axis=1)
    return LedgerReview(
        books=books,
        accounts=tuple(accounts),
        questions=tuple(kept),
        base=against,
        assumed=assumed,
        materiality=materiality,
        short=tuple(name for name, n, all_ in zip(books.names, held, totals, strict=True) if n < LEAST and all_ > 1),
        lone=tuple(name for name, n in zip(books.names, totals, strict=True) if n == 1),
        skipped=int((books.postings.sum(axis=0) == 0).sum()),
        unfinished=books.line.complete.stop < books.line.count,
    )


def _base(books: AccountMonths, names: Sequence[str] | None) -> tuple[Base | None, bool]:
    """What accounts are set against: those named, or those that are called revenue."""
    if names:
        return base_of(books, tuple(dict.fromkeys(names))), False
    found = tuple(
        name for name in books.names
        if any(word in name.casefold() for word in _REVENUE) and not any(word in name.casefold() for word in _NOT)
    )  # fmt: skip
    if not found:
        return None, False
    base = base_of(books, found)
    return (base, True) if base.usable else (None, False)


def _begin(books: AccountMonths, since: str | None) -> np.datetime64 | None:
    if since is None:
        return None
    from ..change.compared_periods import span_of

    begin = span_of(since, books.line).start
    if begin > books.period(books.count - 1).end:
        raise PeriodError(
            f"Nothing was posted since {since}; the last complete period is {books.period(books.count - 1).start}."
        )
    return begin


def _reaches(one: LedgerQuestion, begin: np.datetime64) -> bool:
    """Whether a question is of the time from `begin` on; an account that stops is silent from the day after on."""
    if one.kind == "timing" and one.other is not None:
        return bool(max(one.period.end, one.other.end) >= begin)
    return bool(one.period.end + np.timedelta64(int(one.kind == "stops"), "D") >= begin)


def _merged(asked: Sequence[LedgerQuestion]) -> list[LedgerQuestion]:
    """Each month of an account asked about once, by the kind that says most of it."""
    by_month: dict[tuple[str | None, str], list[LedgerQuestion]] = {}
    for one in asked:
        by_month.setdefault((one.account, str(one.period.start)), []).append(one)
        if one.kind == "timing" and one.other is not None:
            by_month.setdefault((one.account, str(one.other.start)), []).append(one)
    kept = []
    for one in asked:
        beside = by_month[one.account, str(one.period.start)]
        if any(one.kind in _OVER.get(other.kind, ()) for other in beside if other is not one):
            continue
        kept.append(_known(one, beside))
    return kept


def _known(one: LedgerQuestion, beside: Sequence[LedgerQuestion]) -> LedgerQuestion:
    """A question of postings, with what is known of its month."""
    if one.kind not in ("repeated", "opposite"):
        return one
    for other in beside:
        if other.kind in ("twice", "movement"):
            return replace(one, usual=other.usual if one.kind == "repeated" else one.usual, p=other.p, q=other.q)
    return one


def _weighed(
    books: AccountMonths, one: LedgerQuestion, base: Base | None, limits: Materiality, level: float | None
) -> LedgerQuestion:
    """With its share of the base of its month, and what that makes it."""
    against = level or 0.0
    if base is not None:
        place = int(books.places(np.array([one.period.start]))[0])
        at = books.count - 1 if one.kind == "drift" else min(max(place, 0), books.count - 1)
        against = float(base.usual[at]) or against
    elif one.account is None:
        against = float(np.abs(books.amounts).sum(axis=0).mean()) / 2
    if one.kind in ("round", "digits"):
        return replace(one, weight="minor")
    share = abs(one.amount) / against if against > 0 else float("inf") if one.amount else 0.0
    weight: Weight = "major" if share >= limits.major else "minor" if share >= limits.minor else "small"
    return replace(one, share=share, weight=weight)
