"""What was noticed in a table, in the reader's language."""

from __future__ import annotations

from typing import Any

from ..tables.problems import Problem
from .core_sentences import retold


def sentence(problem: Problem) -> str:
    """One thing noticed, as a sentence."""
    return retold(problem.message)


def problem_dict(problem: Problem) -> dict[str, Any]:
    """One thing noticed, as JSON: its sentence and its question in the reader's language."""
    made = problem.to_dict() | {"message": retold(problem.message)}
    made["examples"] = [{"row": row, "value": retold(value)} for row, value in problem.examples]
    if problem.repair is not None:
        made["repair"] = {"applied": True, "what": retold(problem.repair)}
    if problem.question is not None:
        made["question"] = problem.question.to_dict() | {"text": retold(problem.question.text)}
    return made
