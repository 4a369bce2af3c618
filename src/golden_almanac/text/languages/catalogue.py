"""Phrase catalogues: gettext files beside this module, one a language, read once."""

from __future__ import annotations

from collections.abc import Callable
from decimal import Decimal
from functools import lru_cache
from importlib.resources import files

#: (context, English phrase) → the phrase, or its forms by number.
Catalogue = dict[tuple[str | None, str], str | tuple[str, ...]]


@lru_cache(maxsize=8)
def catalogue(language: str) -> Catalogue:
    """The phrases of a language."""
    from babel.messages.pofile import read_po

    with files(__package__).joinpath(f"{language}.po").open("rb") as file:
        read = read_po(file, locale=language)
    phrases: Catalogue = {}
    for message in read:
        if message.id:
            name = message.id if isinstance(message.id, str) else message.id[0]
            said = message.string or ""
            phrases[(message.context, name)] = said if isinstance(said, str) else tuple(said)
    return phrases


def singular(language: str, number: float | Decimal) -> bool:
    """Whether a number goes with the singular, by the plural rule of the language (CLDR): 1,5 does in French, and 1.0,
    written so, does not in English."""
    if language == "en":
        return number == 1 and not (isinstance(number, Decimal) and number.as_tuple()[2] != 0)
    return _rule(language)(number if number >= 0 else -number) == "one"


@lru_cache(maxsize=8)
def _rule(language: str) -> Callable[[float | Decimal], str]:
    from babel import Locale

    rule: Callable[[float | Decimal], str] = Locale.parse(language).plural_form
    return rule
