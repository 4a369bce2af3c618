"""Phrase catalogues: gettext files beside this module, one a language, read once."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal
from functools import lru_cache
from importlib.resources import files
from typing import Any

#: (context, English phrase) → the phrase, or its forms by number.
Catalogue = dict[tuple[str | None, str], str | tuple[str, ...]]


#: Where the catalogues are: a file there is all that makes a language.
FOLDER: Any = files(__package__)
#: CLDR's categories of plurals, in the order in which a catalogue gives its forms (those that the language has).
_CATEGORIES = ("zero", "one", "two", "few", "many", "other")


def languages() -> tuple[str, ...]:
    """English, which the phrases are written in, and every language that there is a catalogue for."""
    return ("en", *sorted(file.name.removesuffix(".po") for file in FOLDER.iterdir() if file.name.endswith(".po")))


@lru_cache(maxsize=8)
def catalogue(language: str) -> Catalogue:
    """The phrases of a language."""
    from babel.messages.pofile import read_po

    with FOLDER.joinpath(f"{language}.po").open("rb") as file:
        read = read_po(file, locale=language)
    phrases: Catalogue = {}
    for message in read:
        if message.id:
            name = message.id if isinstance(message.id, str) else message.id[0]
            said = message.string or ""
            phrases[(message.context, name)] = said if isinstance(said, str) else tuple(said)
    return phrases


def quotes(language: str) -> tuple[str, str]:
    """The quotation marks of a language, as its catalogue gives them under "grammar": „ “."""
    first, _, last = str(catalogue(language).get(("grammar", "quotes"), "“ ”")).partition(" ")
    return first, last


def singular(number: float | Decimal) -> bool:
    """Whether a number goes with the English singular; 1.0, written so, does not."""
    return number == 1 and not (isinstance(number, Decimal) and number.as_tuple()[2] != 0)


def form_of(language: str, number: float | Decimal, forms: Sequence[str]) -> str:
    """The one of a phrase's forms that goes with a number, by the plural rule of the language (CLDR): 1,5 goes with the
    French singular, 22 with the Polish few. A language gives a form for each category that it has."""
    rule = _rule(language)
    has = [name for name in _CATEGORIES if name in rule.tags or name == "other"]
    return forms[min(has.index(rule(number if number >= 0 else -number)), len(forms) - 1)]


@lru_cache(maxsize=8)
def _rule(language: str) -> Any:
    from babel import Locale

    return Locale.parse(language).plural_form
