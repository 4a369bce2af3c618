"""A table with what is true of it, and helpers that make such tables."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
import pandas as pd

Rng = np.random.Generator


@dataclass(frozen=True, slots=True, kw_only=True)
class Case:
    """A table; `columns` says what each column is: a nature of numbers, or time, dimension, key, text, part,
    ignored, of which several may do (`key|dimension`); `time` and `grain` what it is told by; `never` are
    patterns that no output may hold, `must` such that what `check` says must; `scenario` and `unit` name the
    column of scenarios or units."""

    frame: pd.DataFrame
    columns: Mapping[str, str]
    time: str | None = None
    grain: str | None = None
    never: Sequence[str] = ()
    must: Sequence[str] = ()
    scenario: str | None = None
    unit: str | None = None


@dataclass(frozen=True, slots=True)
class Kind:
    """A kind of table: its trade, its name, and how one is made from a seed."""

    name: str
    make: Callable[[Rng], Case] = field(compare=False)


KINDS: list[Kind] = []


def kind(make: Callable[[Rng], Case]) -> Callable[[Rng], Case]:
    """A generator listed under its name."""
    KINDS.append(Kind(make.__name__, make))
    return make


def days(first: str, count: int) -> list[str]:
    return [str(day) for day in np.datetime64(first, "D") + np.arange(count)]


def months(first: str, count: int) -> list[str]:
    return [f"{month}-01" for month in np.datetime64(first, "M") + np.arange(count)]


def pick(rng: Rng, *choices: str) -> str:
    return str(rng.choice(choices))


def some(rng: Rng, names: Sequence[str], count: int) -> list[str]:
    return [str(name) for name in rng.choice(list(names), size=count)]


def money(rng: Rng, count: int, size: float = 100.0) -> np.ndarray:  # type: ignore[type-arg]
    return np.round(rng.gamma(2.0, size / 2, count), 2)


def walk(rng: Rng, count: int, start: float, step: float = 0.02) -> np.ndarray:  # type: ignore[type-arg]
    return np.round(start * np.exp(np.cumsum(rng.normal(0.0, step, count))), 2)
