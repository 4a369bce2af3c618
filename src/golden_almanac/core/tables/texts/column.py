"""A column of text in its own type, with every decision listed.

Clean columns take a fast path over the whole column. Others are read by their distinct values, so that
no row is looked at by itself.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..problems import Problem, Question
from . import dates, figures, flags
from .missing import is_spelled_missing

#: Beyond so many different texts a column is free text, and no number or date in disguise.
MOST_DISTINCT = 400_000
#: A column of which this share reads as numbers (dates) is meant to be one; the rest is shown.
_NEARLY = 0.9
_EXAMPLES = 3

_LEADING_ZERO = r"^0\d"
_LONG_DIGITS = r"^\d{16,}$"


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Typed:
    """The column as Arrow, the unit its cells bore, and what was decided on the way."""

    values: Any
    unit: str | None = None
    problems: tuple[Problem, ...] = ()


def typed(name: str, values: Any, row_of: Callable[[int], int]) -> Typed:
    """The column (Arrow strings, empty ones missing) in its own type.

    `row_of` gives the row as a person sees it from the place in the column. A type is taken only when
    every value has it, spellings of missing apart; otherwise the column stays text, whole.
    """
    import pyarrow as pa
    import pyarrow.compute as pc

    if len(values) == values.null_count:
        return Typed(values=values)
    text = pc.utf8_trim_whitespace(values)
    fast = _fast(values, text)
    if fast is not None:
        return Typed(values=fast)
    encoded = (
        text.combine_chunks().dictionary_encode() if isinstance(text, pa.ChunkedArray) else text.dictionary_encode()
    )
    if len(encoded.dictionary) > MOST_DISTINCT:
        return Typed(values=values)
    distinct = encoded.dictionary.to_pylist()
    spelled = [value == "" or is_spelled_missing(value) for value in distinct]
    known = [value for value, gone in zip(distinct, spelled, strict=True) if not gone]
    if not known:
        return Typed(values=values)
    places = np.asarray(pc.fill_null(encoded.indices, -1))
    context = _Context(name=name, distinct=distinct, places=places, row_of=row_of)
    for read in (flags.read, figures.read, dates.read):
        found = read(known)
        if found is None:
            continue
        good = [value for value in found.values if value is not None]
        if found.values and len(good) < len(found.values):
            if found.likely and len(good) >= _NEARLY * len(found.values):
                bad = {value for value, read_as in zip(known, found.values, strict=True) if read_as is None}
                return Typed(values=values, problems=(context.unread(found.what, bad),))
            continue
        if found.question is not None:
            return Typed(values=values, problems=(context.asked(found.check, found.question),))
        return _turned(context, encoded, known, spelled, found)
    return Typed(values=values)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Context:
    name: str
    distinct: list[str]
    places: Any
    row_of: Callable[[int], int]

    def examples(self, wanted: set[str]) -> tuple[int, tuple[tuple[int, str], ...]]:
        """How many cells hold one of the texts, and the first few of them."""
        codes = [code for code, value in enumerate(self.distinct) if value in wanted]
        rows = np.flatnonzero(np.isin(self.places, codes))
        return int(rows.size), tuple(
            (self.row_of(int(row)), self.distinct[self.places[row]]) for row in rows[:_EXAMPLES]
        )

    def unread(self, what: str, bad: set[str]) -> Problem:
        count, shown = self.examples(bad)
        return Problem(
            check="mixed types",
            severity="question",
            column=self.name,
            rows=count,
            examples=shown,
            message=f"{self.name!r} holds {what}, but {count:,} of its cells do not, so it was left as text.",
            question=Question(text=f"Mend these cells, or empty them, to use {self.name!r} as {what}."),
        )

    def asked(self, check: str, question: Question) -> Problem:
        count = int((self.places >= 0).sum())
        rows = np.flatnonzero(self.places >= 0)[:_EXAMPLES]
        return Problem(
            check=check,
            severity="question",
            column=self.name,
            rows=count,
            message=f"{self.name!r}: {question.text}",
            examples=tuple((self.row_of(int(row)), self.distinct[self.places[row]]) for row in rows),
            question=question,
        )


def _turned(context: _Context, encoded: Any, known: list[str], spelled: list[bool], found: Any) -> Typed:
    import pyarrow as pa

    read_as = dict(zip(known, found.values, strict=True))
    dictionary = pa.array(
        [None if gone else read_as[value] for value, gone in zip(context.distinct, spelled, strict=True)],
        type=found.type,
    )
    values = dictionary.take(encoded.indices)
    problems = []
    if found.repair is not None:
        count, shown = context.examples(set(found.changed))
        problems.append(
            Problem(
                check=found.check,
                severity="repair",
                column=context.name,
                rows=count,
                examples=shown,
                message=f"{context.name!r} was read as {found.repair}.",
                repair=f"read as {found.repair}",
            )
        )
    gone = {value for value, is_gone in zip(context.distinct, spelled, strict=True) if is_gone and value}
    if gone:
        count, shown = context.examples(gone)
        words = ", ".join(repr(value) for value in sorted(gone)[:4])
        problems.append(
            Problem(
                check="missing values",
                severity="repair",
                column=context.name,
                rows=count,
                examples=shown,
                message=f"{count:,} cells of {context.name!r} say {words} among {found.what}; they count as missing.",
                repair=f"{words} counted as missing",
            )
        )
    return Typed(values=values, unit=found.unit, problems=tuple(problems))


def _fast(values: Any, text: Any) -> Any | None:
    """Plain numbers and ISO dates, over the whole column at once; the text itself for identifiers."""
    import pyarrow as pa
    import pyarrow.compute as pc

    sample = text.slice(0, 50).drop_null()
    first = sample[0].as_py() if len(sample) else None
    if first is not None and first[:1] not in "+-.0123456789":
        return None
    for kind in (pa.int64(), pa.float64(), pa.date32()):
        try:
            cast = text.cast(kind)
        except pa.ArrowInvalid:
            continue
        if kind == pa.date32():
            return cast
        # Identifiers such as 00123: noughts and long numbers must survive.
        ends = pc.min_max(cast).as_py()
        long = kind == pa.int64() and max(abs(ends["min"] or 0), abs(ends["max"] or 0)) >= 10**15
        if long or _any(text.filter(pc.starts_with(text, "0")), _LEADING_ZERO):
            return values
        # "nan" and "inf" are words, not numbers.
        odd = kind == pa.float64() and not pc.all(pc.is_finite(cast)).as_py()
        return None if odd else cast
    return values if _any(sample, _LONG_DIGITS) and _all(text, _LONG_DIGITS) else None


def _all(text: Any, pattern: str) -> bool:
    import pyarrow.compute as pc

    return bool(pc.all(pc.match_substring_regex(text, pattern)).as_py())


def _any(text: Any, pattern: str) -> bool:
    import pyarrow.compute as pc

    return bool(pc.any(pc.match_substring_regex(text, pattern)).as_py())
