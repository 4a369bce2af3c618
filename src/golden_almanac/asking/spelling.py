"""Words that are near a misspelt one: by letters left out, doubled, exchanged, or taken from the next key."""

from __future__ import annotations

from functools import cache

from .lexicon import Lexicon
from .spans import words_of
from .vocabulary import Vocabulary

#: Words of so many letters may have so many slips.
_ONE, _TWO = 4, 8
_MOST = 4


@cache
def calendar_words() -> tuple[str, ...]:
    """The words of the calendar."""
    told = words_of()
    listed = [*told["months"], *told["weekdays"], *(f"{day}s" for day in told["weekdays"]), *told["seasons"]]
    listed += [
        word
        for texts in (*told["grains"].values(), *told["cycles"].values())
        for text in texts
        for word in text.split()
    ]
    listed += [*told["numbers"]["words"], *(word for name in ("since", "until", "before", "between", "last", "ordinals")
                                            for text in told[name] for word in text.split())]  # fmt: skip
    return tuple(sorted({word for word in listed if len(word) >= _ONE}))


_KEYS = ("qwertyuiop", "asdfghjkl", "zxcvbnm")
_PLACES = {letter: (x + 0.5 * y, y) for y, row in enumerate(_KEYS) for x, letter in enumerate(row)}


def unlikely(typed: str, meant: str) -> float:
    """What makes a slip less likely: a letter from a key that is not beside the one meant, a letter too much that does
    not double its neighbour; nought for the common ones."""
    if len(typed) == len(meant):
        other = [(a, b) for a, b in zip(typed, meant, strict=True) if a != b]
        if len(other) == 1:
            near = all(letter in _PLACES for letter in other[0])
            if near:
                (x, y), (u, v) = (_PLACES[letter] for letter in other[0])
                near = abs(x - u) <= 1 and abs(y - v) <= 1
            return 0.0 if near else 0.5
        return 0.0
    if len(typed) == len(meant) + 1:
        place = next((k for k in range(len(meant)) if typed[k] != meant[k]), len(meant))
        return 0.0 if place and typed[place] == typed[place - 1] else 0.5
    return 0.0


class Speller:
    """Knows the words of a table and of the lexicon."""

    def __init__(self, known: Vocabulary, words: Lexicon) -> None:
        self.known, self.words = known, words

    def near(self, word: str) -> list[tuple[str, float]]:
        """Known words within a slip or two of one that is not known, the nearest first; none for what is a word of its
        own, or holds digits. Optimal string alignment distance (Boytsov 2011), by rapidfuzz."""
        if len(word) < _ONE or word in self.words.plain or any(letter.isdigit() for letter in word):
            return []
        from rapidfuzz.distance import OSA
        from rapidfuzz.process import extract

        most = 2 if len(word) >= _TWO else 1
        found: dict[str, float] = {}
        # A word of the grammar turns the whole question: one slip at most ("collected" is not "correlated").
        for choices, slips in ((self.known.spellings, most), (self.words.corrigible, 1), (calendar_words(), most)):
            for near, distance, _ in extract(word, choices, scorer=OSA.distance, score_cutoff=slips, limit=_MOST):
                contrary = any(
                    word.startswith(one) and not near.startswith(one) for one in ("un", "non", "dis", "anti")
                )
                if distance and len(near) >= _ONE and not contrary:
                    found.setdefault(str(near), distance + unlikely(word, str(near)))
        return sorted(found.items(), key=lambda pair: (pair[1], pair[0]))[:_MOST]
