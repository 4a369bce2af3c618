"""Results remember the language they were made in, and all they say is said in it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from functools import wraps
from typing import Concatenate, ParamSpec, Protocol, TypeVar

from ..charts.palette import Palette, shared, sharing
from ..text.languages import Voice, voice_of
from ..text.languages import speaking as spoken_by

P = ParamSpec("P")
R = TypeVar("R")


class _Speaker(Protocol):
    @property
    def voice(self) -> Voice: ...


S = TypeVar("S", bound=_Speaker)


def in_voice(method: Callable[Concatenate[S, P], R]) -> Callable[Concatenate[S, P], R]:
    """A method that says something, in the voice of its result."""

    @wraps(method)
    def said(self: S, /, *args: P.args, **kwargs: P.kwargs) -> R:
        with spoken_by(self.voice):
            return method(self, *args, **kwargs)

    return said


def voiced(function: Callable[P, R]) -> Callable[P, R]:
    """A function with `locale` and `names` among its parameters, which runs in the voice that they make."""

    @wraps(function)
    def said(*args: P.args, **kwargs: P.kwargs) -> R:
        locale, names = kwargs.get("locale"), kwargs.get("names")
        assert locale is None or isinstance(locale, str)
        assert names is None or isinstance(names, Mapping)
        with spoken_by(voice_of(locale, names)):
            return function(*args, **kwargs)

    return said


def in_one_palette(method: Callable[P, R]) -> Callable[P, R]:
    """A method that draws several charts: a label has one colour in all of them."""

    @wraps(method)
    def drawn(*args: P.args, **kwargs: P.kwargs) -> R:
        with sharing(shared() or Palette()):
            return method(*args, **kwargs)

    return drawn


@contextmanager
def speaking(locale: str, names: Mapping[str, str] | None = None) -> Iterator[None]:
    """Inside, everything that is made is said in a language: `with ga.speaking("de"): ga.scan(table)`.

    Parameters
    ----------
    locale
        en, de, es or fr, with a territory or without (de_AT, fr_CA), which decides how numbers and dates are written.
    names
        What columns and labels are called: `{"revenue": "Umsatz, m, Umsätze, des Umsatzes"}`: the word, its gender (m,
        f, n; p, mp, fp where it stands in the plural), its other number and its genitive, of which all but the word may
        be missing.

    Returns
    -------
    context manager
        For a `with` block.

    Raises
    ------
    RequestError
        There are no phrases for the locale.
    """
    with spoken_by(voice_of(locale, names)):
        yield
