"""What is kept of an edition beside its files: what it was made from, what it told, what people changed in it.

All of it is plain data, so that an edition can be read, compared and verified without the program that made it.
"""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field
from typing import Any

FORMAT = "golden-almanac/edition/1"
RECORD = "edition.json"


@dataclass(frozen=True, slots=True, kw_only=True)
class ToldFinding:
    """A finding as an edition told it: its `size` is the effect that tells stronger from weaker, `editions` how many
    editions in a row told it, this one included."""

    id: str
    kind: str
    headline: str
    size: float | None
    direction: str | None
    editions: int = 1


@dataclass(frozen=True, slots=True, kw_only=True)
class PeriodTotal:
    """A figure that the source gave: a measure in a complete period."""

    measure: str
    start: str
    end: str
    value: float


@dataclass(frozen=True, slots=True, kw_only=True)
class EditionRecord:
    """`edition` is its name, `as_of` the last day of its data, `previous` the edition that it was compared with.

    `told` are the findings by their matching key, `totals` the figures by period, `columns` the types of the source's
    columns, `words` what the file of words said of each section, `edits` what people changed, carried on from edition
    to edition, `files` their sizes and digests, `checks` how many figures were run again as SQL, and how many agreed.
    """

    edition: str
    as_of: str | None
    title: str
    headline: str
    previous: str | None
    brief: Mapping[str, Any]
    source: Mapping[str, Any]
    versions: Mapping[str, str]
    columns: Mapping[str, str]
    told: Mapping[str, ToldFinding]
    totals: Sequence[PeriodTotal]
    words: Mapping[str, Mapping[str, Any]]
    edits: Mapping[str, Any]
    alerts: Sequence[str]
    checks: Mapping[str, int]
    files: Sequence[Mapping[str, Any]] = field(default=())

    def to_dict(self) -> dict[str, Any]:
        return {"format": FORMAT, **asdict(self)}


def record_of(text: str) -> EditionRecord:
    """A record from its JSON. Raises ValueError where it is none."""
    said = json.loads(text)
    if not isinstance(said, dict) or said.get("format") != FORMAT:
        raise ValueError(f"its format is not {FORMAT}")
    try:
        said = {key: value for key, value in said.items() if key != "format"}
        said["told"] = {key: ToldFinding(**one) for key, one in said["told"].items()}
        said["totals"] = tuple(PeriodTotal(**one) for one in said["totals"])
        return EditionRecord(**said)
    except (TypeError, KeyError, AttributeError) as problem:
        raise ValueError("it lacks a part") from problem
