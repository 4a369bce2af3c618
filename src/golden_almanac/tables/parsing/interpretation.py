"""What one way of reading makes of a column's distinct values."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from ...support.phrasing import phrased
from ..problems import Question
from ..reading_guide import Guide

NO_GUIDE = Guide()
#: What a column's texts may be read as, as it is said.
KINDS = {
    str(kind): kind for kind in (phrased("numbers"), phrased("dates"), phrased("yes and no"), phrased("durations"))
}


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Reading:
    """`values` runs along the texts handed in, None where a text could not be read. `repair` says how
    texts in `changed` were read, None if there was nothing to it; `question` is set where only a person can
    decide. `likely` tells that the column is meant as `what` even where some texts are not. `facts` are the
    decisions, enough to read the same texts the same way again; `units` stands along the texts where the
    units become a column of their own; `doubt` is asked though the texts are read."""

    what: str
    check: str
    values: list[Any]
    type: Any
    unit: str | None = None
    repair: str | None = None
    changed: tuple[str, ...] = ()
    question: Question | None = None
    likely: bool = True
    facts: Mapping[str, Any] = field(default_factory=dict)
    units: list[str | None] | None = None
    doubt: Question | None = None
