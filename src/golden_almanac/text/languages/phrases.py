"""Phrases with places in them, said in the current language.

A phrase is written in English, where it stands in the code, and looked up in the catalogue of another language. Its
places are filled by name: `{subject}`. A place may ask for a form of what fills it, `{subject.of}` or `{subject.the}`,
and a phrase may agree with what fills a place without saying it again: `{subject:was|were}` takes the form by number,
`{subject:m|f|p}` by gender or plural, `{subject:m|f|mp|fp}` by both.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from decimal import Decimal
from functools import lru_cache
from string import Formatter
from typing import Any

from ...support.english_nouns import singular as one_of
from .catalogue import catalogue, form_of, singular
from .inflection import Noun, agreeing, plain
from .statement import is_known, statement
from .voice import voice


def say(text: str, context: str | None = None, /, **places: Any) -> str:
    """The phrase in the current language, its places filled.

    `context` tells apart phrases that are one in English and two elsewhere. A phrase that its language lacks is said in
    English.
    """
    return _filled(phrase(text, context), places)


def qualified(noun: Noun, text: str, /, **places: Any) -> Noun:
    """A noun with more said of it: the phrase holds it as `{noun}`, in each of its forms."""
    return noun.each(lambda form: say(text, noun=form, **places))


def phrase(text: str, context: str | None = None, /) -> str:
    """The phrase in the current language with its places open, for what fills them by itself, as a formula does."""
    own = voice()
    if own.english:
        return of_what_rows_are(text, own.rows) if own.rows else text
    found = catalogue(own.language).get((context, text))
    return found if isinstance(found, str) and found else text


def count(number: float | Decimal, one: str, many: str, context: str | None = None, /, **places: Any) -> str:
    """The form of a phrase that goes with a number, by the rule of the language; a `Decimal` counts as it is written,
    with its decimals: 1.0 points."""
    own = voice()
    phrase = one if singular(number) else many
    if own.rows and own.english:
        phrase = of_what_rows_are(phrase, own.rows)
    if not own.english:
        found = catalogue(own.language).get((context, one))
        if found and not isinstance(found, str):
            phrase = form_of(own.language, number, found)
    return _filled(phrase, places)


@lru_cache(maxsize=2048)
def of_what_rows_are(text: str, rows: str) -> str:
    """An English phrase about rows, said of what they are: "revenue per sailing", "25,386 sailings". The row that a
    number names stays one of the file."""
    if "row" not in text.casefold():
        return text
    told = _ROWS.sub(lambda match: rows.capitalize() if match[0][0] == "R" else rows, text)
    # What the rows are says which they are: no "orders of orders".
    told = told.replace(f"{{rows}} {rows} of {{table}} found", f"{{rows}} {rows} found")
    return _ONE_ROW.sub(lambda match: match[0].replace("row", one_of(rows)), told)


_ROWS = re.compile(r"(?<![{\w.])[Rr]ows\b(?![}:|])")
_ONE_ROW = re.compile(r"(?<=per )row\b|\brow to row\b|(?<=one )row\b")


def _filled(phrase: str, places: Mapping[str, Any]) -> str:
    """A phrase with its places filled; a statement where there are quantities among them."""
    pieces = _FILLER.pieces(phrase, places)
    text = "".join(pieces)
    smooth = _smooth(text)
    known = smooth == text and any(map(is_known, pieces))
    return statement(pieces) if known else smooth


def _smooth(text: str) -> str:
    """What sound and spelling ask for where phrases meet: one full stop behind "Mio.", Spanish "e" before i."""
    language = voice().language
    if language == "de":
        return _STOPS.sub(r"\1.", text)
    return _Y_BEFORE_I.sub("e ", text) if language == "es" else text


def mark(phrase: str, context: str | None = None) -> str:
    """A phrase that is said elsewhere: named here, so that catalogues can be checked for it."""
    return phrase


_STOPS = re.compile(r"(Mio|Mrd|Bio)\.\.")
_Y_BEFORE_I = re.compile(r"\by (?=[iIíÍ]|[hH]i(?!e))")


class _Filler(Formatter):
    """Fills places; nothing of Python is to be reached through them but the forms of a noun."""

    def get_field(self, field_name: str, args: Sequence[Any], kwargs: Mapping[str, Any]) -> tuple[Any, str]:
        name, _, form = field_name.partition(".")
        value = kwargs[name]
        if form:
            said = value if isinstance(value, Noun) else plain(str(value))
            value = said.form(form)
        return value, name

    def pieces(self, phrase: str, places: Mapping[str, Any]) -> list[str]:
        """The literal texts of a phrase and what fills its places, in their order."""
        found: list[str] = []
        for literal, name, form, _ in self.parse(phrase):
            found.append(literal)
            if name is not None:
                value = self.get_field(name, (), places)[0]
                found.append(
                    agreeing(value, form.split("|"))
                    if form and "|" in form
                    else value
                    if is_known(value)
                    else str(value)
                )
        return found


_FILLER = _Filler()
