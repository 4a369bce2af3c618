"""Questions worth asking, in words."""

from __future__ import annotations

from ..analysis.question_ideas import Question
from ..tables import Column
from . import names
from .languages import Noun, say, voice


def question(question: Question) -> str:
    """ "What goes with delay?"."""
    who = {role: _noun(column) for role, column in question.columns.items()}
    if question.call == "find_drivers":
        return say("What goes with {who}?", who=who["outcome"])
    if question.call == "compare":
        parts = names.plural(question.arguments["by"])
        return say("{who:Does|Do} {who} differ between the {parts}?", who=who["outcome"], parts=parts)
    if question.call == "relate":
        return say("How {y:does|do} {y} go with {x}?", y=who["y"], x=who["x"])
    assert question.measure is not None
    return say("Why did {measure} change?", measure=names.measure_name(question.measure))


def _noun(column: Column) -> Noun:
    """A column as a noun; of English amounts an s at the end tells that they are many."""
    made = names.column(column.name, column.unit)
    if voice().english and column.adds_up and made.endswith("s") and not made.endswith("ss"):
        return made.in_plural()
    return made
