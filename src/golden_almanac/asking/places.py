"""What stands where in a question: columns, labels, dates, numbers, words; the best cover of them all."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from ..support.english_nouns import singular
from ..tables import Role, Timeline
from .lexicon import FITS, Lexicon
from .spans import Clock, Span, words_of
from .spelling import Speller
from .spelling import calendar_words as _calendar
from .vocabulary import Vocabulary, forms_of, name_words
from .words import Token, fold, stem

#: Words of one place at most.
_LONGEST = 8
#: What a word is worth when it is read as something, and what each thing adds.
_WORD, _FILLER = 10.0, 6.0

#: What turns a word into its contrary.
_NEGATING = ("un", "non", "in", "im", "dis")


@dataclass(frozen=True, slots=True, kw_only=True)
class Item:
    """Words `first` to `end` (not included) and what they are: kind is column, label, span, number, rows, grain, cycle,
    scale, unit, filler, unread, or a section of the lexicon with its `tag`. A column or label that several could be
    has them all; `slip` is the word that was corrected."""

    kind: str
    first: int
    end: int
    words: str = ""
    tag: str = ""
    columns: tuple[str, ...] = ()
    labels: tuple[tuple[str, str], ...] = ()
    number: float = 0.0
    span: Span | None = None
    worth: float = 0.0
    whole: bool = True
    slip: str = ""
    plain: str = ""

    @property
    def column(self) -> str:
        return self.columns[0]


class Places:
    """Finds the places of a question in a table's vocabulary."""

    def __init__(self, said: Sequence[Token], known: Vocabulary, words: Lexicon, line: Timeline | None) -> None:
        self.said, self.known, self.words, self.line = _without_prefix(said, known, words), known, words, line
        self.calendar = words_of()
        self.low = [token.low for token in self.said]
        self.stems = [stem(word) for word in self.low]
        self.speller = Speller(known, words)
        self.slips: dict[int, str] = {}

    def items(self) -> list[Item]:
        """The cover of all words that reads most of them, from the left."""
        found = self._found()
        if self._mended(found):
            found = self._found()
        for place in self._unknown(found):
            for item in self._corrected(place):
                found[item.first].append(item)
        return self._cover(found)

    def _found(self) -> list[list[Item]]:
        found = [self._at(place, self.low, self.stems) for place in range(len(self.said))]
        self._spans(found)
        return found

    def _unknown(self, found: list[list[Item]]) -> list[int]:
        reached = {place for row in found for item in row for place in range(item.first, item.end)}
        return [place for place, token in enumerate(self.said) if place not in reached and not token.quoted]

    def _mended(self, found: list[list[Item]]) -> bool:
        """Words that are one known word but for a slip are read as that; whether there were any."""
        for place in self._unknown(found):
            near = self.speller.near(self.low[place])
            best = [word for word, distance in near if distance == near[0][1]]
            if len(best) > 1 and all(word in _calendar() for word in best):
                # "Fridasy": one Friday or several are the same days.
                best = best[:1]
            if len(best) == 1:
                self.slips[place] = f"{self.said[place].text} → {best[0]}"
                self.said[place] = replace(self.said[place], low=best[0])
                self.low[place], self.stems[place] = best[0], stem(best[0])
        return bool(self.slips)

    def _cover(self, found: list[list[Item]]) -> list[Item]:
        n = len(self.said)
        best: list[tuple[float, Item | None]] = [(0.0, None)] * (n + 1)
        for place in range(n - 1, -1, -1):
            token = self.said[place]
            unread = Item(kind="unread", first=place, end=place + 1, words=token.text)
            best[place] = (best[place + 1][0], unread)
            for item in found[place]:
                worth = item.worth + best[item.end][0]
                if worth > best[place][0] + 1e-9:
                    best[place] = (worth, item)
        made, place = [], 0
        while place < n:
            chosen = best[place][1]
            assert chosen is not None
            text = " ".join(token.text for token in self.said[chosen.first : chosen.end])
            slip = chosen.slip or next(
                (self.slips[one] for one in range(chosen.first, chosen.end) if one in self.slips), ""
            )
            plain = " ".join(self.low[chosen.first : chosen.end])
            made.append(replace(chosen, words=text, slip=slip, plain=chosen.plain or plain))
            place = chosen.end
        return made

    # --- what may stand at a place --------------------------------------------------------------------

    def _at(self, place: int, low: list[str], stems: list[str]) -> list[Item]:
        if self.said[place].quoted:
            return self._labels(place, place + 1, low) + self._columns(place, place + 1, low, stems)
        made: list[Item] = []
        most = min(len(low), place + max(_LONGEST, self.known.longest))
        for end in range(place + 1, most + 1):
            if any(token.quoted for token in self.said[place:end]):
                break
            made += self._phrase(place, end, low)
            made += self._columns(place, end, low, stems)
            made += self._labels(place, end, low)
            made += self._rows(place, end, low)
        number = self._number(place, low)
        if number is not None:
            made.append(number)
        return made

    def _phrase(self, place: int, end: int, low: list[str]) -> list[Item]:
        words = tuple(low[place:end])
        text, n = " ".join(words), end - place
        made = []
        if n <= self.words.longest and words in self.words.phrases:
            section, tag = self.words.phrases[words]
            filler = section == "filler"
            worth = _FILLER + 1 if filler and n == 1 else _WORD * n + 2 * (n - 1) + (0 if filler else 1)
            made.append(Item(kind=section, tag=tag, first=place, end=end, worth=worth))
        for kind, listed in (("grain", self.calendar["grains"]), ("cycle", self.calendar["cycles"])):
            for tag, texts in listed.items():
                if text in texts:
                    # "month of the year" is one thing, and more than a month and the year.
                    worth = _WORD * n + 2 if kind == "grain" else 12.0 * n + 5
                    made.append(Item(kind=kind, tag=tag, first=place, end=end, worth=worth))
        if n == 1 and text in self.words.scale:
            made.append(Item(kind="scale", first=place, end=end, number=self.words.scale[text], worth=_WORD - 3))
        if text in self.words.units and place > 0 and low[place - 1] == "per":
            # "cost per kilo": the one column that is in kilos.
            told = [one.name for one in self.known.columns.values()
                    if one.unit in FITS.get(self.words.units[text], ())]  # fmt: skip
            if len(told) == 1:
                made.append(self._column(place, end, told, _WORD * n + 4))
        if text in self.words.units:
            # A number before it, or a sign of money behind it, makes it a unit.
            beside = (
                place > 0
                and (self.words.units[text] != "day" or self._is_compared(place - 1, low))
                and (low[place - 1][:1].isdigit() or low[place - 1] in self.words.scale)
            )
            if end < len(low) and low[end] == "of" and not beside:
                # "tonnes of fish landed"
                made.append(Item(kind="filler", tag="light", first=place, end=end + 1, worth=_FILLER * 2 + 10))
            before = end < len(low) and low[end][:1].isdigit() and not text.isalpha()
            if beside or before:
                made.append(
                    Item(kind="unit", tag=self.words.units[text], first=place, end=end, worth=_WORD * n + 3 * n)
                )
        return made

    def _is_compared(self, number: int, low: list[str]) -> bool:
        """Whether a comparison stands before a number: the days of "over 5 days" are a unit, of "top 5 days" not."""
        return any(self.words.phrases.get(tuple(low[number - n : number]), ("",))[0] == "compare_with"
                   for n in (1, 2, 3) if number >= n)  # fmt: skip

    def _columns(self, place: int, end: int, low: list[str], stems: list[str]) -> list[Item]:
        n = end - place
        made: list[Item] = []
        words = [
            word
            for word, whole in zip(stems[place:end], low[place:end], strict=True)
            if whole not in ("of", "the", "in")
        ]
        if not words or low[place] in ("of", "the", "in") or low[end - 1] in ("of", "the", "in"):
            return []
        whole = self._named(tuple(words))
        if whole:
            made.append(self._column(place, end, whole, _WORD * n + 3 * (n - 1) + 4))
        elif len(words) > 1 and (turned := self._turned(words)):
            made.append(self._column(place, end, turned, _WORD * n + 3 * (n - 1) + 3))
        elif n == 1 and self._is_owner(low[place], words):
            return [Item(kind="rows", tag="owner", first=place, end=end, worth=_WORD + 1)]
        elif (some := self._having(words)) and (n > 1 or low[place] not in self.words.plain or self._strong(words)):
            missing = min(self.known.sizes[name] - len(words) for name in some)
            made.append(self._column(place, end, some, _WORD * n + (n - 1) + 1 - min(3, missing), whole=False))
        joined = self.known.joined.get("".join(low[place:end]))
        if joined and not whole:
            made.append(self._column(place, end, tuple(joined), _WORD * n + 2))
        if not made and n == 1:
            also = self._meant(stems[place])
            if also:
                exact = any(self.known.sizes[name] == 1 for name in also)
                made.append(self._column(place, end, also, _WORD + (1 if exact else 0), whole=exact))
        return made

    def _column(self, first: int, end: int, names: Sequence[str], worth: float, *, whole: bool = True) -> Item:
        return Item(kind="column", first=first, end=end, columns=tuple(names), worth=worth, whole=whole)

    def _named(self, words: tuple[str, ...]) -> tuple[str, ...]:
        found = self.known.exact.get(words)
        return tuple(found) if found else ()

    def _turned(self, words: list[str]) -> tuple[str, ...]:
        """Columns whose words are these in another order."""
        wanted = sorted(words)
        shared = self._having(words)
        return tuple(name for name in shared if any(
            sorted(form) == wanted for form, names in self.known.exact.items() if name in names))  # fmt: skip

    def _having(self, words: Sequence[str]) -> tuple[str, ...]:
        """Columns that have all of these words in their name."""
        found: list[str] | None = None
        if len(set(words)) < len(words):
            return ()
        for word in words:
            names = self.known.words.get(word)
            if not names:
                return ()
            found = names if found is None else [name for name in found if name in names]
        return tuple(found or ())

    def _is_owner(self, word: str, words: Sequence[str]) -> bool:
        """Whether a word names whom a column is of, and not what it holds: "patients", of patient_age."""
        if singular(word) not in self.words.people and word not in self.words.people:
            return False
        some = self._having(words)
        return bool(some) and all(
            self.known.columns[name].type != "text" and stem(name_words(self.known.columns[name])[-1]) != words[0]
            for name in some
        )

    def _strong(self, words: list[str]) -> bool:
        return all(len(self.known.words.get(word, ())) == 1 for word in words)

    def _meant(self, word: str) -> tuple[str, ...]:
        """Columns that have a word of the same meaning in their name."""
        found: list[str] = []
        for other in self.words.synonyms.get(word, ()):
            if other != word:
                whole = self.known.exact.get((other,), [])
                found += [name for name in (whole or self.known.words.get(other, [])) if name not in found]
        return tuple(found)

    def _labels(self, place: int, end: int, low: list[str]) -> list[Item]:
        n = end - place
        words = tuple(low[place:end])
        found = list(self.known.labels.get(words, ()))
        worth = _WORD * n + 2 * (n - 1) + 4
        if self.said[place].quoted:
            # A quoted name is one, and nothing else.
            inner = tuple(fold(words[0]).split())
            found = list(self.known.labels.get(inner, found))
            return [Item(kind="label", first=place, end=end, labels=tuple(found), worth=worth + 4)] if found else []
        if not found:
            for form in sorted(forms_of(words[-1])):
                found += self.known.labels.get((*words[:-1], form), ())
            text = " ".join(words)
            meant = self.words.labels.get(text) or self.words.demonyms.get(text)
            if not found and meant:
                found += self._standing_for(meant)
            worth -= 1
        if found:
            known = words in self.words.phrases or (n == 1 and len(words[0]) < 3)
            same = any(label.split() == [token.text for token in self.said[place:end]] for _, label in found)
            if known and not (same and place > 0) and not (same and any(letter.isupper() for letter in found[0][1])):
                # A label that is a small word of English as well: only where it is written as the label is.
                worth = _WORD * n - 2
            if not any(self.known.columns[name].role is Role.DIMENSION for name, _ in found):
                worth -= 2
            return [Item(kind="label", first=place, end=end, labels=tuple(dict.fromkeys(found)), worth=worth)]
        if n == 1:
            partly = self.known.label_words.get(words[0], [])
            if partly and words not in self.words.phrases:
                return [
                    Item(
                        kind="label",
                        first=place,
                        end=end,
                        labels=tuple(dict.fromkeys(partly)),
                        worth=_WORD - 2,
                        whole=False,
                    )
                ]
        return []

    def _standing_for(self, meant: str) -> list[tuple[str, str]]:
        """Labels that a word stands for: "women" for Woman or, of a column of gender, F."""
        found = list(self.known.labels.get(tuple(meant.split()), ()))
        letter = {"woman": "f", "man": "m"}.get(meant)
        also = {"woman": ("female", "women"), "man": ("male", "men")}.get(meant, ())
        for word in also:
            found += self.known.labels.get((word,), ())
        if not found and letter:
            found = [
                (name, label) for name, label in self.known.labels.get((letter,), ()) if fold(name) in ("gender", "sex")
            ]
        return found

    def _rows(self, place: int, end: int, low: list[str]) -> list[Item]:
        text = " ".join(low[place:end])
        if text in self.known.rows:
            n = end - place
            return [Item(kind="rows", first=place, end=end, worth=_WORD * n + 6)]
        if end - place == 1 and self.known.noun and self.stems[place] == stem(self.known.noun.split()[-1]):
            # "sailed", of sailings.
            return [Item(kind="rows", first=place, end=end, worth=_WORD + 5)]
        return []

    def _number(self, place: int, low: list[str]) -> Item | None:
        word = low[place]
        digits = word.removesuffix("k") if word[:-1].replace(".", "").replace(",", "").isdigit() else word
        plain = digits.replace(",", "") if digits.count(",") and "." not in digits.partition(",")[0] else digits
        try:
            if digits[:1].isdigit():
                value = float(plain) * (1e3 if word.endswith("k") else 1)
                return Item(kind="number", first=place, end=place + 1, number=value, worth=_WORD + 1)
        except ValueError:
            return None
        listed = self.calendar["numbers"]["words"]
        if word in listed and word != "one":
            return Item(kind="number", first=place, end=place + 1, number=float(listed.index(word)), worth=_WORD)
        return None

    def _spans(self, found: list[list[Item]]) -> None:
        if self.line is None:
            return
        for span in Clock(self.said, self.line).spans():
            if self._of_numbers(span, found):
                continue
            n = span.end - span.first
            found[span.first].append(Item(kind="span", first=span.first, end=span.end, span=span, worth=12.0 * n + 4))

    def _of_numbers(self, span: Span, found: list[list[Item]]) -> bool:
        """Whether a year stands behind a column of years: "built after 2000"."""
        for back in (1, 2):
            place = span.first - back
            if place < 0:
                break
            for item in found[place]:
                if item.kind == "column" and item.end >= span.first - 1:
                    column = self.known.columns[item.column]
                    if column.type == "number" and column.role is not Role.MEASURE:
                        return True
        return False

    # --- slips ------------------------------------------------------------------------------------------

    def _corrected(self, place: int) -> list[Item]:
        """What a word that nothing knows would be, were it spelled otherwise; two words, were they one."""
        made: list[Item] = []
        if place + 1 < len(self.low):
            together = self.low[place] + self.low[place + 1]
            names = self._named((stem(together),)) or tuple(self.known.joined.get(together, ()))
            if names:
                made.append(self._column(place, place + 2, names, 2 * _WORD))
        near = self.speller.near(self.low[place])
        for word, distance in [pair for pair in near if pair[1] == near[0][1]]:
            low, stems = list(self.low), list(self.stems)
            low[place], stems[place] = word, stem(word)
            for start in range(max(0, place - _LONGEST), place + 1):
                for item in self._at(start, low, stems):
                    if item.first <= place < item.end:
                        slip = f"{self.said[place].text} → {word}"
                        worth = item.worth - 3 * distance - 1
                        if item.labels:
                            # Of labels as near as each other the one of most rows is meant.
                            worth += self.known.counts.get(item.labels[0], 0.0)
                        plain = " ".join(low[item.first : item.end])
                        made.append(replace(item, worth=worth, slip=slip, plain=plain))
        return made


def _without_prefix(said: Sequence[Token], known: Vocabulary, words: Lexicon) -> list[Token]:
    """ "undamaged" is "not damaged", where that says yes or no."""
    made: list[Token] = []
    for token in said:
        prefix = next((one for one in _NEGATING if token.low.startswith(one) and len(token.low) > len(one) + 3), "")
        base = token.low[len(prefix) :].lstrip("-")
        named = known.words.get(stem(base), []) if prefix else []
        apart = not known.words.get(stem(token.low)) and (token.low,) not in known.labels
        if named and apart and not token.quoted and all(known.columns[name].type == "boolean" for name in named):
            made += [replace(token, text="not", low="not"), replace(token, text=token.text[len(prefix) :], low=base)]
        else:
            made.append(token)
    return made
