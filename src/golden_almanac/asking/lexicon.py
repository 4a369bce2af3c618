"""The words of a language that questions are asked in, from its data file."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

from .words import fold, stem, tokens

#: Sections that are no words of the grammar.
_APART = frozenset(
    "scale units hints synonyms averaged made_of labels people demonyms foreign plain further counted".split()
)


#: Units of numbers and the units of columns they fit.
FITS = {
    "minute": ("min",), "hour": ("h",), "money": ("EUR", "GBP", "USD", "CHF", "JPY"), "tonne": ("t",), "kilo": ("kg",),
    "percent": ("%",), "litre": ("l",), "length": ("km", "m"), "second": ("s",), "day": ("d", "days"),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Lexicon:
    """`phrases` are what words mean (section and tag) by their folded words; the others are as in the file."""

    phrases: dict[tuple[str, ...], tuple[str, str]]
    longest: int
    scale: dict[str, float]
    units: dict[str, str]
    hints: dict[str, tuple[str, ...]]
    synonyms: dict[str, tuple[str, ...]]
    averaged: tuple[str, ...]
    made_of: dict[str, tuple[str, ...]]
    labels: dict[str, str]
    people: frozenset[str]
    rows: frozenset[str]
    demonyms: dict[str, str]
    foreign: dict[str, frozenset[str]]
    plain: frozenset[str]
    further: dict[str, tuple[str, ...]]
    counted: frozenset[str]
    each: frozenset[str]
    corrigible: tuple[str, ...]


def _further(told: dict[str, dict[str, list[str]]]) -> set[str]:
    """Words of units and of labels, which may be misspelt as well."""
    return {fold(text) for section in ("units", "labels") for texts in told[section].values() for text in texts}


@cache
def lexicon(language: str = "english") -> Lexicon:
    """The lexicon of a language. A new language is a folder with this file."""
    home = files(__package__) / language / "lexicon.toml"
    told = tomllib.loads(home.read_text(encoding="utf-8"))
    phrases: dict[tuple[str, ...], tuple[str, str]] = {}
    for section, tags in told.items():
        if section in _APART:
            continue
        for tag, texts in tags.items():
            for text in texts:
                phrases[tuple(token.low for token in tokens(text)) or (text,)] = (section, tag)
    sizes = {"hundred": 1e2, "thousand": 1e3, "million": 1e6, "billion": 1e9}
    synonyms: dict[str, list[str]] = {}
    for name, texts in told["synonyms"].items():
        group = sorted({stem(fold(text)) for text in (name, *texts) if " " not in text})
        for word in group:
            synonyms.setdefault(word, []).extend(group)
    single = {words[0] for words in phrases if len(words) == 1}
    inside = {word for words in phrases for word in words if len(words) > 1}
    return Lexicon(
        phrases=phrases,
        longest=max(map(len, phrases)),
        scale={fold(text): sizes[name] for name, texts in told["scale"].items() for text in texts},
        units={fold(text): name for name, texts in told["units"].items() for text in texts},
        hints={fold(word): tuple(texts) for word, texts in told["hints"].items()},
        synonyms={word: tuple(dict.fromkeys(group)) for word, group in synonyms.items()},
        averaged=tuple(told["averaged"]["words"]),
        made_of={name: tuple(parts) for name, parts in told["made_of"].items()},
        labels={fold(text): name for name, texts in told["labels"].items() for text in texts},
        people=frozenset(map(fold, told["people"]["words"])),
        rows=frozenset(map(fold, told["people"]["rows"])),
        demonyms=dict(told["demonyms"]),
        foreign={name: frozenset(map(fold, texts)) for name, texts in told["foreign"].items()},
        plain=frozenset(map(fold, told["plain"]["words"])),
        further={name: tuple(texts) for name, texts in told["further"].items()},
        counted=frozenset(told["counted"]["words"]),
        each=frozenset(told["counted"]["each"]),
        corrigible=tuple(
            sorted(word for word in single | inside | _further(told) if len(word) >= 4 and word.isalpha())
        ),
    )
