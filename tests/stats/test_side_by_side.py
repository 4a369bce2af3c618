"""Jobs that ask as they go, taken side by side: the same answers as one after the other, in fewer rounds."""

from __future__ import annotations

from collections.abc import Generator

from hypothesis import given
from hypothesis import strategies as st

from golden_almanac.support.side_by_side import side_by_side


def _halved(number: int) -> Generator[list[int], list[int], int]:
    """How often a number can be halved, asked one half at a time; two questions where it is large."""
    steps = 0
    while number > 1:
        questions = [number] if number < 100 else [number, number]
        (*_, number) = yield questions
        steps += 1
    return steps


@given(st.lists(st.integers(0, 1000), max_size=30))
def test_each_job_comes_to_what_it_comes_to_alone(numbers: list[int]) -> None:
    rounds: list[int] = []

    def answered(asked: list[int]) -> list[int]:
        rounds.append(len(asked))
        return [one // 2 for one in asked]

    steps = [max(0, number.bit_length() - 1) for number in numbers]
    assert side_by_side(map(_halved, numbers), answered) == steps
    assert len(rounds) == max(steps, default=0)
