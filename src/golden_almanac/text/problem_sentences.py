"""What was noticed in a table, in the reader's language."""

from __future__ import annotations

from typing import Any

from ..tables.problems import Problem
from .core_sentences import retold


def sentence(one: Problem) -> str:
    """One thing noticed, as a sentence."""
    return retold(one.message)


def problem_dict(one: Problem) -> dict[str, Any]:
    """One thing noticed, as JSON: its sentence and its question in the reader's language."""
    made = one.to_dict() | {"message": retold(one.message)}
    made["examples"] = [{"row": row, "value": retold(value)} for row, value in one.examples]
    if one.repair is not None:
        made["repair"] = {"applied": True, "what": retold(one.repair)}
    if one.question is not None:
        made["question"] = one.question.to_dict() | {"text": retold(one.question.text)}
    return made
