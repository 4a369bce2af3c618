"""What is said where a question was not answered."""

from __future__ import annotations

from collections.abc import Sequence

from .summary import Summary, fit


def refused_summary(why: str, instead: Sequence[str]) -> Summary:
    """Why there is no answer, and what may be asked; in English, as the question is."""
    return fit(why, [f"Ask instead: {'; '.join(instead)}."] if instead else [], [])
