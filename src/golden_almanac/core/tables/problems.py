"""What was noticed in a table: one shape for notes, repairs and open questions."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

#: From worst to least: cannot be reported from, needs an answer, was mended, good to know.
SEVERITIES = ("blocker", "question", "repair", "note")


@dataclass(frozen=True, slots=True, kw_only=True)
class Question:
    """What the reader must decide: the text, the option that answers it, and the answers there are."""

    text: str
    option: str | None = None
    choices: tuple[str, ...] = ()

    def to_dict(self) -> dict[str, Any]:
        return {"text": self.text, "option": self.option, "choices": list(self.choices)}


@dataclass(frozen=True, slots=True, kw_only=True)
class Problem:
    """One thing noticed. `severity` is blocker, question, repair or note; `rows` counts the cells
    or rows concerned; `examples` are (row as a person sees it, value) pairs; `repair` says what was
    done, None exactly when nothing was changed."""

    check: str
    severity: str
    column: str | None
    rows: int
    message: str
    examples: tuple[tuple[int, str], ...] = ()
    repair: str | None = None
    question: Question | None = None

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


def ordered(problems: tuple[Problem, ...]) -> tuple[Problem, ...]:
    """Worst first; within a severity by how many cells are concerned."""
    return tuple(sorted(problems, key=lambda one: (SEVERITIES.index(one.severity), -one.rows, one.column or "")))
