"""A question cut into words, each with its place in the text."""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass

#: Letters and words of a question at most.
MOST_LETTERS, MOST_WORDS = 2_000, 120
_TOKEN = re.compile(
    r"\"[^\"]+\"|“[^”]+”|(?<!\w)'[^']+'(?!\w)"  # what is quoted is one word
    r"|\d{4}-\d{2}-\d{2}|\d{4}-[Qq]\d|\d{4}-[Ww]\d{2}|\d{4}-\d{2}(?!\d)"
    r"|\d{1,2}[./]\d{1,2}[./]\d{2,4}"
    r"|\d+(?:[.,]\d+)*(?:st|nd|rd|th)?(?![^\W\d_])|[^\W_]+(?:['’][^\W\d_]+)*"
    r"|<=|>=|!=|<>|[<>=%€£$&+,/−÷≥≤≠–;-]",
    re.UNICODE,
)


@dataclass(frozen=True, slots=True)
class Token:
    """A word as written (`text`), folded (`low`), and where it stands; `quoted` ones are names as they are."""

    text: str
    low: str
    start: int
    end: int
    quoted: bool = False


def tokens(question: str) -> list[Token]:
    """The words of a question; marks that end a sentence are left out, and so is the ’s of a possessive."""
    text = unicodedata.normalize("NFKC", question).replace("_", " ")
    found = []
    for match in _TOKEN.finditer(text):
        word = match[0]
        if word[0] in '"“' or (word[0] == "'" and len(word) > 2):
            found.append(Token(word[1:-1], fold(word[1:-1]), match.start(), match.end(), True))
            continue
        bare = re.sub(r"['’]s$|['’]$", "", word)
        bare = re.sub(r"(?<=s)['’]$", "", bare).replace("’", "'").replace("'", "")
        if bare and bare not in (";", "-", "–"):
            found.append(Token(bare, fold(bare), match.start(), match.end()))
    return found


def fold(text: str) -> str:
    """Small letters without accents."""
    plain = unicodedata.normalize("NFKD", text.casefold())
    return "".join(letter for letter in plain if not unicodedata.combining(letter))


_ENDS = (
    "ations", "ation", "lations", "lation", "ements", "ement", "ments", "ment", "nesses", "ness", "ings", "ing", "ers",
    "ied", "ies", "ed", "es", "s", "er",
)  # fmt: skip


def stem(word: str) -> str:
    """What forms of a word have in common: cancelled, cancellation → cancel; delays, delayed → delay. Light on purpose:
    four letters stay at least."""
    if len(word) < 5:
        return word[:-1] if len(word) == 4 and word.endswith("s") and not word.endswith("ss") else word
    for end in _ENDS:
        if word.endswith(end) and len(word) - len(end) >= 4 and not (end == "s" and word.endswith(("ss", "us", "is"))):
            word = word[: -len(end)] + ("y" if end in ("ies", "ied") else "")
            break
    if len(word) > 4 and word[-1] == word[-2] and word[-1] in "lnprtm":
        word = word[:-1]
    return word[:-1] if len(word) > 4 and word.endswith("e") else word
