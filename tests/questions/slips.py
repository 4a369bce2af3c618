"""Slips of the fingers, by rule: letters exchanged, dropped, doubled, or taken from the next key."""

from __future__ import annotations

import random
import re

_BESIDE = {
    "q": "wa", "w": "qes", "e": "wrd", "r": "etf", "t": "ryg", "y": "tuh", "u": "yij", "i": "uok", "o": "ipl",
    "p": "ol", "a": "qsz", "s": "awdx", "d": "sefc", "f": "drgv", "g": "fthb", "h": "gyjn", "j": "huk",
    "k": "jil", "l": "ko",
    "z": "ax", "x": "zsc", "c": "xdv", "v": "cfb", "b": "vgn", "n": "bhm", "m": "nj",
}  # fmt: skip
_KINDS = ("exchanged", "dropped", "doubled", "beside")


def slipped(question: str, seed: int) -> str:
    """The question with one slip in one of its longer words."""
    rng = random.Random(seed)
    words = list(re.finditer(r"[A-Za-z]{5,}", question))
    if not words:
        return question
    match = rng.choice(words)
    word, kind = match[0], _KINDS[seed % len(_KINDS)]
    place = rng.randrange(1, len(word) - 1)
    if kind == "exchanged":
        made = word[:place] + word[place + 1] + word[place] + word[place + 2 :]
    elif kind == "dropped":
        made = word[:place] + word[place + 1 :]
    elif kind == "doubled":
        made = word[:place] + word[place] + word[place:]
    else:
        made = word[:place] + rng.choice(_BESIDE[word[place].lower()]) + word[place + 1 :]
    return question[: match.start()] + made + question[match.end() :]
