"""Jobs that ask as they go, taken side by side: what all of them ask in a round is answered at once.

A job is a generator: it yields a list of questions, is sent the list of their answers, and returns what it came to.
"""

from __future__ import annotations

from collections.abc import Callable, Generator, Iterable
from typing import TypeVar

Question = TypeVar("Question")
Answer = TypeVar("Answer")
Outcome = TypeVar("Outcome")


def side_by_side(
    jobs: Iterable[Generator[list[Question], list[Answer], Outcome]], answered: Callable[[list[Question]], list[Answer]]
) -> list[Outcome]:
    """What each job came to, in order; `answered` gives the answers to a round of questions, one for each."""
    outcomes: dict[int, Outcome] = {}
    going = dict(enumerate(jobs))
    answers: dict[int, list[Answer]] = {}
    while going:
        asked: dict[int, list[Question]] = {}
        for number, job in list(going.items()):
            try:
                asked[number] = job.send(answers[number]) if number in answers else next(job)
            except StopIteration as done:
                outcomes[number] = done.value
                del going[number]
        every = [question for questions in asked.values() for question in questions]
        together = iter(answered(every) if every else [])
        answers = {number: [next(together) for _ in questions] for number, questions in asked.items()}
    return [outcomes[number] for number in sorted(outcomes)]
