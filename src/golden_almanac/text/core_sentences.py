"""Sentences of the core in the reader's language."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ..support.phrasing import Commas, Either, Figure, Glued, Named, Phrase
from . import names, numbers
from .languages import count, say, voice


def retold(text: str) -> str:
    """A sentence that the core made, in the current language; one that has no phrase behind it stays as it is."""
    if voice().english or not isinstance(text, Phrase):
        return str(text)
    places = {name: _said(value) for name, value in text.places.items()}
    if text.many is not None and text.number is not None:
        return count(text.number, text.phrase, text.many, **places)
    return say(text.phrase, **places)


def _said(value: Any) -> str:
    if isinstance(value, int) and not isinstance(value, bool):
        return numbers.whole(value)
    if isinstance(value, Figure):
        return numbers.fixed(value, value.decimals)
    if isinstance(value, Named):
        return str(names.column(value.column))
    if isinstance(value, str):
        return retold(value)
    if not isinstance(value, Sequence):
        return str(value)
    told = [_said(one) for one in value]
    if isinstance(value, Commas | Glued):
        return ("" if isinstance(value, Glued) else ", ").join(told)
    if len(told) > 1 and isinstance(value, Either):
        return say("{most} or {last}", most=", ".join(told[:-1]), last=told[-1])
    return names.listed(told)
