"""What a question asks, before it is a call: slots that follow-ups fill anew."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any


@dataclass(frozen=True, slots=True, kw_only=True)
class Measured:
    """A measure: an aggregate of a column, or of two (`over`, joined by `sign`), or of the rows that meet `sql`. `said`
    tells whether the aggregate was named; `name` is what a part of something is called."""

    aggregate: str
    column: str | None = None
    over: str | None = None
    sign: str = ""
    condition: str = ""
    said: bool = False
    name: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Filter:
    """A condition on rows: its SQL, the column it is about, how it is said; `labels` where it is one of labels."""

    sql: str
    column: str
    words: str
    labels: tuple[str, ...] = ()
    negated: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """`intent` is total, rows, why, drivers, relation, difference, trend, season, unusual, describe, outlook, glance
    (key figures), staying (cohorts) or books (a ledger); the rest is what was said of it. `assumed` names what nobody
    said and was taken; `said_span` how the span was said."""

    intent: str = "total"
    measures: tuple[Measured, ...] = ()
    by: tuple[str, ...] = ()
    grain: str | None = None
    cycle: str | None = None
    filters: tuple[Filter, ...] = ()
    period: str | None = None
    baseline: str | None = None
    per: str | None = None
    share: bool = False
    running: bool = False
    order: str | None = None
    ranked_by: str = "value"
    top: int | None = None
    above: float | None = None
    below: float | None = None
    chart: str | None = None
    row_order: str | None = None
    pair: tuple[str, str] | None = None
    ahead: int | None = None
    scale: str | None = None
    colours: tuple[tuple[str, str], ...] = ()
    assumed: tuple[str, ...] = ()

    def but(self, **changes: Any) -> Asked:
        """The same with some slots filled anew."""
        return replace(self, **changes)

    @property
    def where(self) -> str | None:
        """All its conditions as one."""
        if not self.filters:
            return None
        if len(self.filters) == 1:
            return self.filters[0].sql
        return " AND ".join(f"({one.sql})" for one in self.filters)


@dataclass(frozen=True, slots=True, kw_only=True)
class Traced:
    """Words of the question and what they were taken for."""

    words: str
    meaning: str
    kind: str


@dataclass(slots=True)
class Problem(Exception):
    """A question that cannot be read: why, what may be asked instead, and the words that were not understood."""

    why: str
    code: str
    places: dict[str, Any] = field(default_factory=dict)
    unread: tuple[str, ...] = ()
    alternatives: tuple[str, ...] = ()
