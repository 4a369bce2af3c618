"""`ga.check`: is the table fit to report from?"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, ClassVar

from ..analysis.scan_pipeline import timeline_for
from ..findings.finding import plain
from ..reports import Report as Model
from ..tables import Table, Timeline
from ..tables.problems import SEVERITIES, Problem, ordered
from ..tables.readiness.row_identity import smallest
from ..text import Summary
from ..text.core_sentences import retold
from ..text.lines import Line, meaning, readiness_headline, readiness_lines
from ..text.problem_sentences import problem_dict
from .read import read
from .result import Result
from .result_language import in_voice, voiced

if TYPE_CHECKING:
    import pandas as pd


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class Readiness(Result):
    """What was found in a table, worst first: `problems`, and the table after its repairs."""

    format: ClassVar[str] = "golden-almanac/readiness/1"

    table: Table
    problems: tuple[Problem, ...]

    def one_row_per(self) -> tuple[str, ...] | None:
        """The smallest set of up to three columns that no two rows share; None if there is none."""
        return smallest(self.table) if self.table.rows > 2 else None

    def counts(self) -> dict[str, int]:
        """How many problems of each severity."""
        return {name: sum(problem.severity == name for problem in self.problems) for name in SEVERITIES}

    def _about(self) -> Table:
        return self.table

    def _asked(self) -> dict[str, Any]:
        return {}

    def _summed(self, length: str, technical: bool) -> Summary:
        """Fit or not, how many repairs and questions; each problem a bullet."""
        told = tuple(retold(problem.message) for problem in self.problems)
        return Summary(headline=readiness_headline(self.table, self.problems), text="", bullets=told)

    def _heading(self) -> str:
        return f"Readiness of {self.table.name}: {self.table.rows:,} rows"

    def _face(self) -> pd.DataFrame:
        return self.to_frame()[["severity", "message"]]

    def _pages(self, title: str | None) -> Model:
        from ..reports.readiness_report import readiness_report

        return readiness_report(self.table, self.problems, self.summary(), title)

    @in_voice
    def lines(self) -> list[Line]:
        """What a terminal shows: the verdict, questions, repairs and notes with their rows, the columns."""
        return readiness_lines(self.table, self.problems, self.one_row_per(), self._line())

    @in_voice
    def meaning(self) -> list[str]:
        """What a row is, of which span, what is added up and what is not: a sentence each."""
        return meaning(self.table, self.one_row_per(), self._line())

    def _line(self) -> Timeline | None:
        return timeline_for(self.table)

    @in_voice
    def to_frame(self) -> pd.DataFrame:
        """One row a problem: severity, check, column, rows, message, repair, question."""
        import pandas as pd

        return pd.DataFrame(
            [
                {
                    "severity": p.severity,
                    "check": p.check,
                    "column": p.column,
                    "rows": p.rows,
                    "message": retold(p.message),
                    "repair": p.repair,
                    "question": retold(p.question.text) if p.question else None,
                }
                for p in self.problems
            ],
            columns=["severity", "check", "column", "rows", "message", "repair", "question"],
        )

    @in_voice
    def to_dict(self) -> dict[str, Any]:
        """The format golden-almanac/readiness/1: every problem, worst first, stands under `readiness`."""
        made = Result.to_dict(self)
        made["table"]["one_row_per"] = _listed(self.one_row_per())
        return made | {"readiness": [problem_dict(problem) for problem in self.problems]}

    def _figures(self) -> dict[str, Any]:
        table = self.table
        return {
            "source": {"name": table.name, **table.origin.to_dict()},
            "meaning": self.meaning(),
            "columns": [_column(table, column) for column in table.columns],
            "set_aside": len(table.aside),
        }


@voiced
def check(
    source: Any, *, locale: str | None = None, names: Mapping[str, str] | None = None, **options: Any
) -> Readiness:
    """Read a table and say whether it is fit to report from.

    Parameters
    ----------
    source
        Anything `ga.read` takes, or a `Table`.
    locale, names
        The language of the result, and what its columns are called there (see `speaking`); of the caller by default.
    options
        As for `ga.read`.

    Returns
    -------
    Readiness
        Verdict, questions, repairs and notes; each with the rows concerned. Cells with missing values are counted by
        column; spellings of "no value" count as such only among numbers, dates and yes/no.

    Raises
    ------
    AlmanacError
        One of its subclasses, when the source cannot be read.
    """
    table = read(source, **options)
    return Readiness(table=table, problems=ordered(table.problems))


def _listed(names: tuple[str, ...] | None) -> list[str] | None:
    return None if names is None else list(names)


def _column(table: Table, column: Any) -> dict[str, Any]:
    low = high = total = None
    if column.type in ("number", "date", "datetime") and column.missing < table.rows and not table.minimum:
        low, high = table.extent(column.name)
        total = table.total(column.name) if column.type == "number" else None
    examples = table.examples(column.name)
    facts: dict[str, Any] = plain(
        {
            "name": column.name,
            "original": column.original,
            "role": column.role.value,
            "type": column.type,
            "nature": column.nature or None,
            "because": retold(column.because) or None,
            "beside": column.beside or None,
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
