"""Sentences that the core says of a table, in English, which remember the phrase they were made from and what fills it.

They are strings like any other. Whoever speaks another language makes them anew from their phrase (`words`), for which
this module keeps what a string alone has lost.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any


class Phrase(str):
    """The English sentence; `phrase` with its places open, `many` its form for several where it goes with a `number`,
    and what fills the `places`: texts, whole numbers, other phrases, or sequences of those, which are listed."""

    __slots__ = ("many", "number", "phrase", "places")
    phrase: str
    many: str | None
    number: int | None
    places: Mapping[str, Any]


class Named(str):
    """The name of a `column` as English says it; its readers may call it otherwise."""

    __slots__ = ("column",)
    column: str


def named(column: str, told: str) -> Named:
    """The name of a column, as a phrase's place."""
    named = Named(told)
    named.column = column
    return named


class Figure(float):
    """A number with so many `decimals`."""

    __slots__ = ("decimals",)
    decimals: int


def figure(value: float, decimals: int) -> Figure:
    """A number, as a phrase's place."""
    figure = Figure(value)
    figure.decimals = decimals
    return figure


class Glued(tuple[str, ...]):
    """Texts that follow each other as they are, signs between names for instance."""

    __slots__ = ()


class Either(tuple[str, ...]):
    """Names of which any one is meant: "a, b or c"."""

    __slots__ = ()


class Commas(tuple[str, ...]):
    """Texts that stand behind commas, the last one too."""

    __slots__ = ()


def phrased(text: str, /, **places: Any) -> Phrase:
    """A sentence with its places filled."""
    return _made(text, None, None, places)


def phrased_count(number: int, one: str, many: str, /, **places: Any) -> Phrase:
    """The form of a sentence that goes with a number, which fills the place `n`."""
    return _made(one, many, number, {"n": number, **places})


def marked(text: str) -> str:
    """A sentence with open places that `phrased` is to say elsewhere."""
    return text


def plural(one: str, many: str) -> tuple[str, str]:
    """The two forms of a sentence that `phrased_count` is to say elsewhere."""
    return one, many


def together(*sentences: str) -> str:
    """Sentences behind each other; empty ones are left out."""
    kept = [sentence for sentence in sentences if sentence]
    if len(kept) < 2:
        return kept[0] if kept else ""
    return phrased("{first} {second}", first=kept[0], second=together(*kept[1:]))


def _made(text: str, many: str | None, number: int | None, places: Mapping[str, Any]) -> Phrase:
    form = text if many is None or number == 1 else many
    phrase = Phrase(form.format(**{name: _english(value) for name, value in places.items()}))
    phrase.phrase, phrase.many, phrase.number, phrase.places = text, many, number, places
    return phrase


def _english(value: Any) -> str:
    if isinstance(value, int) and not isinstance(value, bool):
        return f"{value:,}"
    if isinstance(value, Figure):
        return f"{value:,.{value.decimals}f}"
    if isinstance(value, Sequence) and not isinstance(value, str):
        word = "or" if isinstance(value, Either) else "and"
        told = [_english(one) for one in value]
        if isinstance(value, Commas | Glued):
            return ("" if isinstance(value, Glued) else ", ").join(told)
        return f"{', '.join(told[:-1])} {word} {told[-1]}" if len(told) > 1 else "".join(told)
    return str(value)
