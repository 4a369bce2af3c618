"""What was noticed in a table: one shape for notes, repairs and open questions."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from ..support.shell import option

#: From worst to least: cannot be reported from, needs an answer, was mended, good to know.
SEVERITIES = ("blocker", "question", "repair", "note")


@dataclass(frozen=True, slots=True, kw_only=True)
class Question:
    """What the reader must decide: the text, the key under which an answer is given, and the answers there are.

    `key` is None where only the source itself can be mended.
    """

    text: str
    key: str | None = None
    choices: tuple[str, ...] = ()

    @property
    def option(self) -> str | None:
        """The command-line option that answers it with the first choice."""
        return None if self.key is None else option("--answer", f"{self.key}={self.choices[0]}")

    def to_dict(self) -> dict[str, Any]:
        return {"text": self.text, "option": self.option, "brief": self.key, "choices": list(self.choices)}


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """One repair as data, enough to make it again: what to `do`, to which column, with which `facts` (JSON values)."""

    do: str
    column: str | None = None
    facts: Mapping[str, Any] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class Problem:
    """One thing noticed. `severity` is blocker, question, repair or note; `rows` counts the cells
    or rows concerned; `examples` are (row as a person sees it, value) pairs; `repair` says what was
    done, None exactly when nothing was changed, and `step` is the same as data."""

    check: str
    severity: str
    column: str | None
    rows: int
    message: str
    examples: tuple[tuple[int, str], ...] = ()
    repair: str | None = None
    question: Question | None = None
    step: Step | None = None

    def to_dict(self) -> dict[str, Any]:
        repair = None if self.repair is None else {"applied": True, "what": self.repair}
        return {
            "check": self.check,
            "severity": self.severity,
            "column": self.column,
            "rows": self.rows,
            "examples": [{"row": row, "value": value} for row, value in self.examples],
            "message": self.message,
            "repair": repair,
            "question": None if self.question is None else self.question.to_dict(),
        }


@dataclass(frozen=True, slots=True, kw_only=True)
class Aside:
    """A row of the source that is no data of the table: its number, the file or sheet it is in where several were
    stacked, why it was set aside, and what it says; `cells` by column where it has the table's shape."""

    row: int
    why: str
    text: str
    part: str | None = None
    cells: Mapping[str, Any] = field(default_factory=dict)


def ordered(problems: tuple[Problem, ...]) -> tuple[Problem, ...]:
    """Worst first; within a severity by how many cells are concerned."""
    return tuple(sorted(problems, key=lambda one: (SEVERITIES.index(one.severity), -one.rows, one.column or "")))


def counted(count: int, word: str, words: str | None = None) -> str:
    """ "1 row", "2 rows"."""
    return f"{count:,} {word if count == 1 else words or word + 's'}"
