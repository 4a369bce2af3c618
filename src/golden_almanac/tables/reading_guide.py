"""What reading is told beforehand: answers that people gave, a log of repairs to make again, the zone to report in."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any

from ..support.errors import RequestError, join_or, nearest
from .problems import Question, Step


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Guide:
    """Handed through reading and readiness.

    `answers` maps the key of a question ("date order/Date", or "date order" for every column) to the choice.
    With `log` nothing is decided anew: just the steps in it are made. `put` collects the keys of the questions
    that came up, so that an answer to none of them is noticed. With a `decimal_comma` in other columns points part
    thousands.
    """

    answers: Mapping[str, str] = field(default_factory=dict)
    log: tuple[Step, ...] | None = None
    zone: str | None = None
    decimal_comma: bool = False
    put: dict[str, tuple[str, ...]] = field(default_factory=dict)

    def ask(self, check: str, column: str | None, text: str, choices: tuple[str, ...]) -> Question | str:
        """The question, or the answer that was given to it. Raises RequestError for an answer that is no choice."""
        key = check if column is None else f"{check}/{column}"
        self.put[key] = choices
        for known in (key, check):
            if known in self.answers:
                answer = self.answers[known]
                if answer not in choices:
                    raise RequestError(f"The answer to {known!r}", answer, "one of " + ", ".join(map(repr, choices)))
                return answer
        return Question(text=text, key=key, choices=choices)

    def step(self, do: str, column: str | None = None) -> Step | None:
        """The step of the log that does this to the column."""
        return next(iter(self.steps(do, column)), None)

    def steps(self, do: str, column: str | None = None) -> Iterable[Step]:
        for step in self.log or ():
            if step.do == do and (column is None or step.column == column):
                yield step

    def place_of_table(self, file: str, sheet: str | None) -> Step | None:
        """The step of the log that says where the table stands in a file (and sheet of it)."""
        for step in self.steps("find the table"):
            if step.facts.get("file", file) == file and step.facts.get("sheet", sheet) == sheet:
                return step
        return None

    @property
    def replays(self) -> bool:
        return self.log is not None

    def check_answers(self) -> None:
        """Raises RequestError for an answer to a question that was not put."""
        checks = {key.partition("/")[0] for key in self.put}
        for key in self.answers:
            if key not in self.put and key not in checks:
                near = nearest(key, sorted(self.put))
                asked = f"Did you mean {join_or(near)}?" if near else f"The questions are {_listed(self.put)}."
                raise RequestError(
                    "The answer",
                    key,
                    "the key of a question that the table puts. " + (asked if self.put else "It puts none."),
                )


def _listed(keys: Mapping[str, Any]) -> str:
    return ", ".join(repr(key) for key in sorted(keys)[:8]) or "none"
