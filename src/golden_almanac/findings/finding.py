"""One notable fact, from the candidate a detector returns to the finding a person reads."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, Any

from ..aggregation.measures import Measure
from ..sql import expressions
from ..support.notebook_view import view
from ..support.printable import made_visible
from ..tables import Period, Table
from .finding_kind import FindingKind

if TYPE_CHECKING:
    import pandas as pd

#: Figures are compared with those of the check to this relative accuracy.
TOLERANCE = 1e-9


@dataclass(frozen=True, slots=True)
class Slice:
    """The rows whose columns have given labels; no conditions means the whole table."""

    conditions: tuple[tuple[str, str | None], ...] = ()

    def to_dict(self) -> dict[str, list[str | None]]:
        return {column: [label] for column, label in self.conditions}

    def sql(self, table: Table) -> str:
        """The slice as an SQL condition, TRUE for the whole table."""
        return " AND ".join(table.equals(column, label) for column, label in self.conditions) or "TRUE"

    @property
    def label(self) -> str:
        """The labels as said: "Outer Bar", "Outer Bar, Peak"; "" for the whole table."""
        return ", ".join("(no value)" if label is None else label for _, label in self.conditions)


@dataclass(frozen=True, slots=True, kw_only=True)
class Test:
    """The test behind a claim: p on its own, q among all tests of the scan."""

    name: str
    statistic: float | None
    p: float
    q: float | None = None

    def to_dict(self) -> dict[str, Any]:
        return {"name": self.name, "statistic": self.statistic, "p": self.p, "q": self.q}


@dataclass(frozen=True, slots=True, kw_only=True)
class Score:
    """How much a finding matters: parts between 0 and 1, `total` their geometric mean times interest."""

    total: float
    strength: float
    reach: float
    confidence: float

    def to_dict(self) -> dict[str, float]:
        return {"total": self.total, "strength": self.strength, "reach": self.reach, "confidence": self.confidence}


@dataclass(frozen=True, slots=True, kw_only=True)
class Check:
    """One SQL query over `source` whose one row must hold the figures in `expect`."""

    sql: str
    expect: Mapping[str, float]

    def to_dict(self) -> dict[str, Any]:
        return {"sql": self.sql, "expect": dict(self.expect)}

    def run(self, table: Table) -> CheckResult:
        """Run the query on the table and compare. Raises ExpressionError if it cannot run."""
        frame = table.sql(self.sql)
        got = {name: float(frame[name].iloc[0]) for name in self.expect}
        off = [name for name, value in self.expect.items() if not _close(value, got[name])]
        return CheckResult(agrees=not off, expected=dict(self.expect), found=got, differing=tuple(off))


@dataclass(frozen=True, slots=True, kw_only=True)
class CheckResult:
    """What a check found: `agrees` when every figure is the same to nine digits."""

    agrees: bool
    expected: dict[str, float]
    found: dict[str, float]
    differing: tuple[str, ...]


def _close(wanted: float, got: float) -> bool:
    return abs(wanted - got) <= TOLERANCE * max(1.0, abs(wanted), abs(got))


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Candidate:
    """What a detector returns: a claim with its p-value, before the scan decides what to keep.

    `strength` and `reach` lie in 0–1; `large` is False below the effect floor, `floor` is that floor and what it is
    measured in, where what is sure but small may be told; `agrees` is False where the plain figures do not show what
    the test is sure of; `series` holds what
    charts and words draw from (arrays by name); `implied_by` names a candidate's key and the reason
    when the detector itself saw that one claim is the mirror of another. `check` is None where nothing
    is claimed; see `nothing`. `survey` is what it was found in, where a scan looks at several. `weight` is its share of
    the room for error beside that of its kind: second looks and looks at many slices get less.
    """

    kind: FindingKind
    measure: Measure | None
    by: str | None
    where: Slice
    period: Period | None
    baseline: Period | None
    direction: str | None
    figures: Mapping[str, Any]
    test: str
    statistic: float | None
    p: float
    strength: float
    reach: float
    large: bool
    check: Check | None
    agrees: bool = True
    floor: tuple[float, str] | None = None
    series: Mapping[str, Any] = field(default_factory=dict)
    implied_by: tuple[str, str] | None = None
    weight: float = 1.0
    survey: Any = field(default=None, compare=False, repr=False)
    _ids: dict[str, str] = field(init=False, default_factory=dict, compare=False, repr=False)

    @classmethod
    def nothing(
        cls,
        kind: FindingKind,
        measure: Measure | None,
        by: str | None,
        where: Slice,
        test: str,
        statistic: float,
        p: float,
        weight: float = 1.0,
    ) -> Candidate:
        """A test that was made and found nothing: it counts in the family and is told nowhere."""
        return cls(
            kind=kind, measure=measure, by=by, where=where, period=None, baseline=None, direction=None, figures={},
            test=test, statistic=statistic, p=p, strength=0.0, reach=0.0, large=False, check=None,
            weight=weight,
        )  # fmt: skip

    @property
    def matters(self) -> bool:
        """Whether its effect is large enough to be told, and shows in the plain figures."""
        return self.large and self.agrees

    @property
    def key(self) -> str:
        """What the claim is about: the same in every run and edition."""
        measure = None if self.measure is None else self.measure.name
        span = None if self.period is None else [str(self.period.start), str(self.period.end)]
        name = self.kind.told_apart_by
        besides = None if name is None else self.figures.get(name)
        return json.dumps([self.kind.name, measure, self.by, self.where.conditions, span, besides], ensure_ascii=True)

    @property
    def id(self) -> str:
        # Asked for some twenty times a finding; a copy with other figures may be another.
        if "id" not in self._ids:
            self._ids["id"] = f"{self.kind}-{hashlib.sha256(self.key.encode()).hexdigest()[:10]}"
        return self._ids["id"]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class Finding:
    """One notable fact, with its figures, evidence and words.

    `folded_under` is (id, reason) for a finding implied by another; `good` whether it is for the better, where the
    caller said what is; `small` whether its effect is below the floor, and it is told because the caller named its
    column; `notes` known circumstances that overlap it. `rows()`, `check()` and
    `chart()` go back to the table the scan was made from.
    """

    candidate: Candidate
    test: Test
    score: Score
    related: tuple[str, ...] = ()
    folded_under: tuple[str, str] | None = None
    good: bool | None = None
    small: bool = False
    notes: tuple[str, ...] = ()
    _table: Table | None = None
    _draw: Callable[[Finding, Any], Any] | None = None
    _say: Callable[[Finding], tuple[str, str]] | None = None
    _words: list[tuple[str, str]] = field(init=False, default_factory=list)

    @property
    def headline(self) -> str:
        """The claim, in the language of the result; put into words when it is first read."""
        return self._worded()[0]

    @property
    def detail(self) -> str:
        """What it is compared with, why, and how sure it is."""
        return self._worded()[1]

    def _worded(self) -> tuple[str, str]:
        if not self._words and self._say is not None:
            self._words.append(self._say(self))
        return self._words[0] if self._words else ("", "")

    @property
    def id(self) -> str:
        return self.candidate.id

    @property
    def kind(self) -> str:
        """The name of its kind."""
        return self.candidate.kind.name

    @property
    def definition(self) -> FindingKind:
        """The declaration of its kind."""
        return self.candidate.kind

    @property
    def measure(self) -> Measure | None:
        return self.candidate.measure

    @property
    def by(self) -> str | None:
        return self.candidate.by

    @property
    def where(self) -> Slice:
        return self.candidate.where

    @property
    def period(self) -> Period | None:
        return self.candidate.period

    @property
    def baseline(self) -> Period | None:
        return self.candidate.baseline

    @property
    def direction(self) -> str | None:
        return self.candidate.direction

    @property
    def evidence(self) -> Check:
        """The query that gives the figures again."""
        if self.candidate.check is None:
            raise RuntimeError("a test that found nothing is no finding")
        return self.candidate.check

    @property
    def figures(self) -> Mapping[str, Any]:
        return self.candidate.figures

    def check(self) -> CheckResult:
        """Compute the figures again with the check's SQL on the source rows, and compare."""
        # What the finding says is told already: its own SQL may add up again what it tells.
        return self.evidence.run(replace(self._source(), minimum=0))

    def rows(self) -> pd.DataFrame:
        """The rows behind the finding, with the numbers they have in the file."""
        import pandas as pd

        table = self._source()
        wanted = []
        if self.where.conditions:
            wanted.append(self.where.sql(table))
        if self.period is not None and self.candidate.series.get("time"):
            column = expressions.quote_name(self.candidate.series["time"])
            spans = [self.period] + ([self.baseline] if self.baseline else [])
            wanted.append(
                "("
                + " OR ".join(
                    f"CAST({column} AS DATE) BETWEEN DATE '{span.start}' AND DATE '{span.end}'" for span in spans
                )
                + ")"
            )
        if self.definition.happens == "row":
            kept = table.at([int(self.figures["row"])])
            if kept.rows > 1:
                # Rows of several files bear the same number.
                kept = kept.filter(f"{expressions.quote_name(self.figures['column'])} = {self.figures['value']!r}")
        else:
            kept = table.filter(" AND ".join(wanted)) if wanted else table
        frame, numbers = kept.to_frame(), kept.row_numbers()
        frame.index = pd.Index(numbers, name="row")
        return frame

    def chart(self, *, ax: Any = None) -> Any:
        """The finding as a chart (see `golden_almanac.charts`), in Matplotlib axes of the caller's or as a figure of
        its own."""
        if self._draw is None:
            raise RuntimeError("this finding was not made by ga.scan or ga.explain_change")
        return self._draw(self, ax)

    @property
    def condition(self) -> str | None:
        """The rows that the finding is about, as an SQL condition; None where they are all."""
        return self.where.sql(self._source()) if self.where.conditions else None

    @property
    def along(self) -> str | list[str] | None:
        """The column, or columns, that the claim is made along."""
        if self.kind == "exception":
            return [str(self.by), self.figures["and_by"]]
        along: list[str] = self.figures.get("along", [])
        return along if len(along) > 1 else self.by

    def to_dict(self) -> dict[str, Any]:
        """The finding in the format golden-almanac/findings/1."""
        candidate = self.candidate
        return {
            "id": self.id,
            "kind": self.kind,
            "measure": None if self.measure is None else self.measure.name,
            "by": self.along,
            "where": self.where.to_dict(),
            "sql": self.condition,
            "period": None if self.period is None else self.period.to_dict(),
            "baseline": None if self.baseline is None else self.baseline.to_dict(),
            "direction": self.direction,
            "good": self.good,
            "small": self.small,
            "figures": _plain(candidate.figures),
            "test": _plain(self.test.to_dict()),
            "score": _plain(self.score.to_dict()),
            "headline": self.headline,
            "detail": self.detail,
            "check": _plain(self.evidence.to_dict()),
            "notes": list(self.notes),
            "related": list(self.related),
        }

    def _source(self) -> Table:
        if self._table is None:
            raise RuntimeError("this finding has lost its table")
        return self._table

    def _repr_html_(self) -> str:
        told = [self.detail, *self.notes] if self.detail else self.notes
        return view(self.headline or self.candidate.key, told, code=self.evidence.sql, code_label="SQL")

    @made_visible
    def __repr__(self) -> str:
        return f"Finding {self.id}: {self.headline or self.candidate.key}"


def _plain(value: Any) -> Any:
    """Plain JSON values: no NaN, no infinity, no numpy types."""
    if isinstance(value, Mapping):
        return {str(key): _plain(inner) for key, inner in value.items()}
    if isinstance(value, list | tuple):
        return [_plain(inner) for inner in value]
    if isinstance(value, bool) or value is None or isinstance(value, str | int):
        return value
    if hasattr(value, "item"):
        value = value.item()
    if isinstance(value, float):
        return value if value == value and abs(value) != float("inf") else None
    return value if isinstance(value, int | bool) else str(value)


plain = _plain
