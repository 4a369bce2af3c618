"""Whose words are spoken: a locale, and what the reader's own names for columns are.

One voice is current at a time, in each thread; results remember the one they were made in.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass

from ...support.errors import RequestError
from .catalogue import languages


@dataclass(frozen=True, slots=True)
class Voice:
    """`locale` is a language with or without a territory: "de", "fr_CA"; `names` are (column or label, what to call
    it): see `nouns` for how a noun is written; `rows` is what rows are, many of them and in English: "sailings"."""

    locale: str = "en"
    names: tuple[tuple[str, str], ...] = ()
    rows: str = ""

    @property
    def language(self) -> str:
        return self.locale.split("_")[0]

    @property
    def english(self) -> bool:
        return self.language == "en"


_ENGLISH = Voice()
_current: ContextVar[Voice] = ContextVar("voice", default=_ENGLISH)


def voice() -> Voice:
    """The voice that is current."""
    return _current.get()


def voice_of(locale: str | None, names: Mapping[str, str] | None = None) -> Voice:
    """A voice from what a caller gives; None keeps what is current.

    Raises RequestError for a locale that there are no phrases for.
    """
    known = voice()
    kept = known.names if names is None else tuple(sorted((str(key), str(text)) for key, text in names.items()))
    return Voice(known.locale if locale is None else _checked(locale), kept, known.rows)


@contextmanager
def speaking(voice: Voice) -> Iterator[Voice]:
    """Everything said inside is said in this voice."""
    token = _current.set(voice)
    try:
        yield voice
    finally:
        _current.reset(token)


def _checked(locale: str) -> str:
    from babel import Locale, UnknownLocaleError

    text = locale.strip().replace("-", "_").split(".")[0]
    known = languages()
    allowed = f"one of {', '.join(known)}, with a territory or without: de, fr_CA"
    if text.split("_")[0].lower() not in known:
        raise RequestError("The locale", locale, allowed)
    try:
        return str(Locale.parse(text))
    except (UnknownLocaleError, ValueError) as problem:
        raise RequestError("The locale", locale, allowed) from problem
