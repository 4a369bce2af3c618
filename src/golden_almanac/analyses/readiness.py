"""`ga.check`: is the table fit to report from?"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..core.findings.finding import plain
from ..core.readiness.grain import smallest
from ..core.tables import Table
from ..core.tables.problems import SEVERITIES, Problem, counted, ordered
from .reading import read


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class Readiness:
    """What was found in a table, worst first: `problems`, and the table after its repairs."""

    table: Table
    problems: tuple[Problem, ...]

    def one_row_per(self) -> tuple[str, ...] | None:
        """The smallest set of up to three columns that no two rows share; None if there is none."""
        return smallest(self.table) if self.table.rows > 2 else None

    def counts(self) -> dict[str, int]:
        """How many problems of each severity."""
        return {name: sum(one.severity == name for one in self.problems) for name in SEVERITIES}

    def headline(self) -> str:
        """One sentence: fit or not, how many repairs and questions."""
        count = self.counts()
        table = self.table
        kept = f"{table.rows:,} rows and {len(table.columns)} columns of {table.name}"
        if count["blocker"]:
            return f"{kept} cannot be reported from yet: {counted(count['blocker'], 'blocker')}."
        if not count["question"] and not count["repair"]:
            return f"{kept} are fit to report from as they stand."
        parts = [counted(count[name], name) for name in ("repair", "question") if count[name]]
        verb = "was made" if parts == ["1 repair"] else "were made" if not count["question"] else ""
        if count["repair"] and count["question"]:
            rest = "awaits" if count["question"] == 1 else "await"
            made = "was made" if count["repair"] == 1 else "were made"
            return f"{kept} are fit to report from: {parts[0]} {made}, {parts[1]} {rest} an answer."
        if count["repair"]:
            return f"{kept} are fit to report from: {parts[0]} {verb}."
        rest = "awaits" if count["question"] == 1 else "await"
        return f"{kept} are fit to report from, but {parts[0]} {rest} an answer."

    def to_frame(self) -> Any:
        """One row a problem: severity, check, column, rows, message, repair, question."""
        import pandas as pd

        return pd.DataFrame(
            [
                {
                    "severity": p.severity,
                    "check": p.check,
                    "column": p.column,
                    "rows": p.rows,
                    "message": p.message,
                    "repair": p.repair,
                    "question": p.question.text if p.question else None,
                }
                for p in self.problems
            ],
            columns=["severity", "check", "column", "rows", "message", "repair", "question"],
        )

    def to_dict(self) -> dict[str, Any]:
        """The format golden-almanac/readiness/1."""
        table = self.table
        return {
            "format": "golden-almanac/readiness/1",
            "table": {
                "rows": table.rows_read,
                "columns": len(table.columns),
                "one_row_per": _listed(self.one_row_per()),
            },
            "source": {"name": table.name, **table.origin.to_dict()},
            "columns": [_column(table, column) for column in table.columns],
            "readiness": [problem.to_dict() for problem in self.problems],
            "set_aside": len(table.aside),
            "summary": {"headline": self.headline(), "text": "", "bullets": [p.message for p in self.problems]},
        }

    def __repr__(self) -> str:
        lines = [self.headline(), *(f"  {p.severity:<9} {p.message}" for p in self.problems)]
        return "\n".join(lines)


def check(source: Any, **options: Any) -> Readiness:
    """Read a table and say whether it is fit to report from; takes what `ga.read` takes."""
    table = read(source, **options)
    return Readiness(table=table, problems=ordered(table.problems))


def _listed(names: tuple[str, ...] | None) -> list[str] | None:
    return None if names is None else list(names)


def _column(table: Table, column: Any) -> dict[str, Any]:
    low = high = total = None
    if column.type in ("number", "date", "datetime") and column.missing < table.rows:
        low, high = table.extent(column.name)
        total = table.total(column.name) if column.type == "number" else None
    examples = table.examples(column.name)
    facts: dict[str, Any] = plain(
        {
            "name": column.name,
            "original": column.original,
            "role": column.role.value,
            "type": column.type,
            "unit": column.unit,
            "missing": column.missing,
            "distinct": column.distinct,
            "min": low,
            "max": high,
            "sum": total,
            "examples": examples,
        }
    )
    return facts
