"""What a review of a ledger asks: one question each, with the figures that raise it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from ...tables import Period

#: What may be asked about; see `LedgerQuestion`.
Kind = Literal[
    "movement", "step", "drift", "twice", "repeated", "timing", "missing", "sign", "opposite", "begins", "stops",
    "round", "digits", "unbalanced",
]  # fmt: skip
Weight = Literal["major", "minor", "small"]
#: Amounts that count as round are whole thousands; first digits are told of amounts from here on: below, rounding to
#: cents decides.
ROUND, LEAST_AMOUNT = 1000, 10
#: Kinds whose amount comes again every month from their period on.
LASTING = frozenset({"step", "drift", "begins", "stops"})


@dataclass(frozen=True, slots=True, kw_only=True)
class LedgerQuestion:
    """One thing to ask the people who keep the books.

    - `movement`: a month off the account's usual course; `step`: another level from `period` on; `drift`: a course that
      leaves the usual one from `period` on; `twice`: a month at twice what is usual
    - `repeated`: postings that stand there more than once (same account, day and amount); `timing`: what `period` lacks
      stands in `other`; `missing`: a month without the posting that it always has
    - `sign`: a month with the other sign; `opposite`: postings with another sign than all the others of their account
    - `begins`, `stops`: an account that is first or last posted to in `period`
    - `round`: many round amounts; `digits`: first digits that are not as they are where amounts grow freely
    - `unbalanced`: debits that do not equal credits

    `amount` is what it is about, in money: of a month how far it lies off, of what lasts (`LASTING`) how far a month;
    `value` and `usual` are of that month (of what lasts, after and before), `low` and `high` the 95% range of `usual`.
    `share` is the amount against the base of that month, or against what is usual for the account where there is no
    base; `weight` says how much that matters. `p` is among all that the account could have shown, `q` among all
    accounts; both None where nothing is tested. `postings` counts those concerned; `where` picks their rows.
    `monthly` is the pace beside the accounts together of a `drift` told so, and the digit of `digits`.
    """

    kind: Kind
    account: str | None
    period: Period
    amount: float
    value: float | None = None
    usual: float | None = None
    low: float | None = None
    high: float | None = None
    other: Period | None = None
    share: float = 0.0
    weight: Weight = "small"
    p: float | None = None
    q: float | None = None
    postings: int | None = None
    monthly: float | None = None
    where: str = ""
