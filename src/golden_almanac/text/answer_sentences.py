"""What is said about a question: how it was read, what to ask next, why it was not answered."""

from __future__ import annotations

from collections.abc import Sequence

from .languages import say
from .summary import Summary, fit


def refused_summary(why: str, instead: Sequence[str]) -> Summary:
    """Why there is no answer, in English, as the question is; what may be asked."""
    return fit(why, [say("Ask instead: {questions}.", questions="; ".join(instead))] if instead else [], [])


def account_of(
    reading: str, others: Sequence[str] = (), carried: Sequence[str] = (), sql: str | None = None, command: str = ""
) -> list[str]:
    """The lines that let a reader check an answer. The reading is put in English, in which it can be asked again."""
    if not reading:
        return []
    first = [say("Read as: {reading}.", reading=reading)]
    if others:
        first.append(say("It could also be: {others}.", others="; ".join(others)))
    if carried:
        first.append(say("Carried over: {carried}.", carried=", ".join(carried)))
    told = [" ".join(first)]
    if sql is not None:
        told.append(f"SQL: {sql}")
    if command:
        told.append(say("The same: {command}", command=command))
    return told


def further_of(questions: Sequence[str]) -> list[str]:
    """What to ask next, in one line."""
    return [say("Ask next: {questions}.", questions="; ".join(questions))] if questions else []
