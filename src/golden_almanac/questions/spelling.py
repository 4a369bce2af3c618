"""Words that are near a misspelt one: by letters left out, doubled, exchanged, or taken from the next key."""

from __future__ import annotations

from .lexicon import Lexicon
from .vocabulary import Vocabulary

#: Words of so many letters may have so many slips.
_ONE, _TWO = 4, 8
_MOST = 4


class Speller:
    """Knows the words of a table and of the lexicon."""

    def __init__(self, known: Vocabulary, words: Lexicon) -> None:
        self.known, self.words = known, words

    def near(self, word: str) -> list[tuple[str, int]]:
        """Known words within a slip or two of one that is not known, the nearest first; none for what is a word of its
        own, or holds digits. Optimal string alignment distance (Boytsov 2011), by rapidfuzz."""
        if len(word) < _ONE or word in self.words.plain or any(letter.isdigit() for letter in word):
            return []
        from rapidfuzz.distance import OSA
        from rapidfuzz.process import extract

        most = 2 if len(word) >= _TWO else 1
        found: dict[str, int] = {}
        for choices in (self.known.spellings, self.words.corrigible):
            for near, distance, _ in extract(word, choices, scorer=OSA.distance, score_cutoff=most, limit=_MOST):
                if distance and len(near) >= _ONE:
                    found.setdefault(str(near), int(distance))
        return sorted(found.items(), key=lambda pair: (pair[1], pair[0]))[:_MOST]
