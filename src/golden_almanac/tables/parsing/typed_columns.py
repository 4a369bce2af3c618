"""A column of text in its own type, with every decision listed.

Clean columns take a fast path over the whole column. Others are read by their distinct values, so that
no row is looked at by itself.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ...engine import arrow_arrays
from ...support.phrasing import phrased, phrased_count
from ..problems import Problem, Question, Step
from ..reading_guide import Guide
from . import booleans, date_formats, durations, number_formats
from .interpretation import KINDS, NO_GUIDE, Reading
from .missing_values import NEVER_NAMES, is_spelled_missing

#: The answer that cells which are no numbers (dates) among many that are count as missing.
AS_MISSING = "count as missing"
#: Beyond so many different texts a column is free text, and no number or date in disguise.
MOST_DISTINCT = 400_000
#: A column of which this share reads as numbers (dates) is meant to be one; the rest is shown.
_NEARLY = 0.9
#: Texts are kept as codes of their distinct values when these are fewer than this share of the rows.
_FEW = 0.2
#: Of many different texts this many are tried first.
_SAMPLE = 500
_EXAMPLES = 3

#: What texts may be, in the order in which it is tried.
_READINGS = (
    ("yes and no", booleans.read),
    ("durations", durations.read),
    ("numbers", number_formats.read),
    ("dates", date_formats.read),
)
#: Numbers with a decimal comma, and with a point that parts no thousands.
_COMMA, _POINT = re.compile(r"[+-]?(\d+|\d{1,3}(\.\d{3})+)(,\d{1,2})?"), re.compile(r"[+-]?\d+(\.\d{1,2}|\.\d{4,})?")
_LEADING_ZERO = r"^0\d"
_POINTED_MONTH = r"^(0?[1-9]|1[0-2])\.(19|20)\d{2}$"
_LONG_DIGITS = r"^\d{16,}$"


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Typed:
    """The column as Arrow, the unit its cells bore, and what was decided on the way; `units` is a column of units
    where a person asked to split a mixed one."""

    values: Any
    unit: str | None = None
    problems: tuple[Problem, ...] = ()
    units: Any = None


def decimal_comma(columns: Iterable[Any]) -> bool:
    """Whether columns of text have a number that only a decimal comma makes one (3,4 or 1.234,56), and none that has a
    decimal point: in their file points part thousands then."""
    commas = points = False
    for values in columns:
        few = [text for text in values.slice(0, _SAMPLE).to_pylist() if text]
        if date_formats.pointed_months(few):
            continue
        commas |= bool(few) and all(_COMMA.fullmatch(text) for text in few) and any("," in text for text in few)
        points |= bool(few) and all(_POINT.fullmatch(text) for text in few) and any("." in text for text in few)
    return commas and not points


def typed(
    name: str,
    values: Any,
    example: Callable[[int, str], tuple[int, str]],
    guide: Guide = NO_GUIDE,
    stated: bool = False,
) -> Typed:
    """The column (Arrow strings, empty ones missing) in its own type.

    `example` gives the row as a person sees it from the place in the column. A type is taken only when
    every value has it, spellings of missing apart; otherwise the column stays text, whole. With `stated` the source
    has types of its own, and only texts that no type could have held are read: plain digits stay text.
    """
    import pyarrow as pa
    import pyarrow.compute as pc

    if len(values) == values.null_count:
        return Typed(values=values)
    if not stated:
        fast = _fast(values)
        if fast is not None:
            return Typed(values=fast)
    encoded = one_dictionary(values)
    if len(encoded.dictionary) > MOST_DISTINCT:
        return Typed(values=values)
    distinct = pc.utf8_trim_whitespace(encoded.dictionary.cast(pa.string())).to_pylist()
    kept = encoded if len(distinct) <= _FEW * max(len(values), 1) else values
    step = guide.step("read texts", name)
    if guide.replays and step is not None:
        missing = set(step.facts.get("missing", ()))
        spelled = [value in (None, "") or value in missing for value in distinct]
    else:
        spelled = [value in (None, "") or is_spelled_missing(value) for value in distinct]
    known = list(dict.fromkeys(value for value, gone in zip(distinct, spelled, strict=True) if not gone))
    if not known:
        return Typed(values=kept)
    context = _Context(name=name, distinct=distinct, encoded=encoded, example=example, guide=guide)
    for kind, read in _READINGS:
        if step is not None and step.facts["as"] != kind:
            continue
        if not _may_be(read, name, known) or (kind == "numbers" and _are_months(known)):
            continue
        found = read(name, known, guide)
        # A yes in a text is one whatever door it comes through; plain digits in a typed source are texts.
        plain_text = stated and found is not None and found.what == "numbers" and found.repair is None
        if found is None or plain_text:
            if found is None or found.what != "numbers" or not number_formats.decimals(known):
                continue
            # A database that keeps decimals as text had no better type for them.
            found = replace(found, changed=tuple(known), repair=phrased("numbers"))
        bad = {value for value, read_as in zip(known, found.values, strict=True) if read_as is None}
        if bad:
            if not (found.likely and len(bad) <= (1 - _NEARLY) * len(known)) or (guide.replays and step is None):
                continue
            asked = context.unread(found.what, bad)
            if asked is not None:
                return Typed(values=kept, problems=(asked,))
            spelled = [gone or value in bad for gone, value in zip(spelled, distinct, strict=True)]
        if found.question is not None:
            return Typed(values=kept, problems=(context.asked(found.check, found.question),))
        turned = _turned(context, known, spelled, found)
        if found.doubt is not None:
            turned = replace(turned, problems=(*turned.problems, context.asked("decimal mark", found.doubt)))
        # A replay makes just the repairs of its log; what was read without one is read again.
        return Typed(values=kept) if guide.replays and step is None and turned.problems else turned
    return _without_fillers(context, kept)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Context:
    name: str
    distinct: list[str]
    encoded: Any
    example: Callable[[int, str], tuple[int, str]]
    guide: Guide

    def places(self) -> Any:
        return arrow_arrays.wholes(self.encoded.indices, -1)

    def pairs(self) -> list[tuple[str, str]]:
        """The distinct texts, trimmed and as they stand."""
        return list(zip(self.distinct, self.encoded.dictionary.to_pylist(), strict=True))

    def examples(self, wanted: set[str]) -> tuple[int, tuple[tuple[int, str], ...]]:
        """How many cells hold one of the texts, and the first few of them."""
        places = self.places()
        codes = [code for code, value in enumerate(self.distinct) if value in wanted]
        rows = np.flatnonzero(np.isin(places, codes))
        return int(rows.size), tuple(self.example(int(row), self.distinct[places[row]]) for row in rows[:_EXAMPLES])

    def unread(self, what: str, bad: set[str]) -> Problem | None:
        """The question about cells that are no numbers (dates) among many that are; None when it was answered."""
        count, shown = self.examples(bad)
        column, kind = repr(self.name), KINDS[what]
        asked = phrased(
            "Mend these cells, or let them count as missing, to use {column} as {what}.", column=column, what=kind
        )
        answer = self.guide.ask("mixed types", self.name, asked, (AS_MISSING,))
        if isinstance(answer, str) or self.guide.replays:
            return None
        return Problem(
            check="mixed types",
            severity="question",
            column=self.name,
            rows=count,
            examples=shown,
            message=phrased_count(
                count,
                "{column} holds {what}, but {n} of its cells does not. It was left as text.",
                "{column} holds {what}, but {n} of its cells do not. It was left as text.",
                column=column,
                what=kind,
            ),
            question=answer,
        )

    def asked(self, check: str, question: Question) -> Problem:
        places = self.places()
        rows = np.flatnonzero(places >= 0)
        return Problem(
            check=check,
            severity="question",
            column=self.name,
            rows=int(rows.size),
            message=phrased("{column}: {text}", column=repr(self.name), text=question.text),
            examples=tuple(self.example(int(row), self.distinct[places[row]]) for row in rows[:_EXAMPLES]),
            question=question,
        )


def _without_fillers(context: _Context, kept: Any) -> Typed:
    """A column of labels without what programs write for no value, which nobody and nothing is called."""
    step = context.guide.step("read texts", context.name)
    fillers = {value for value in context.distinct if value in NEVER_NAMES}
    if not fillers or (context.guide.replays and step is None):
        return Typed(values=kept)
    every = [None if value in fillers else text for value, text in context.pairs()]
    values = arrow_arrays.listed(every, context.encoded.dictionary.type).take(context.encoded.indices)
    facts = {"as": "labels", "missing": sorted(fillers)}
    gone = _gone(context, fillers, phrased("labels"), Step(do="read texts", column=context.name, facts=facts))
    return Typed(values=one_dictionary(values) if values.type != kept.type else values, problems=(gone,))


def _are_months(known: list[str]) -> bool:
    """Whether what might be numbers are years and months: 1939 Jan, 01.2024."""
    return date_formats.years_and_months(known) or date_formats.pointed_months(known)


def _may_be(read: Any, name: str, known: list[str]) -> bool:
    """Whether a sample of many different texts lets a reading hope: free text is told at a glance."""
    if len(known) <= 4 * _SAMPLE:
        return True
    sample = known[:: len(known) // _SAMPLE]
    found = read(name, sample)
    return found is not None


def one_dictionary(values: Any) -> Any:
    """A column as one array of codes with one dictionary."""
    import pyarrow as pa

    if isinstance(values, pa.ChunkedArray):
        values = values.unify_dictionaries() if pa.types.is_dictionary(values.type) else values
        values = values.combine_chunks()
    if isinstance(values, pa.ChunkedArray):
        values = values.chunk(0) if values.num_chunks else pa.array([], values.type)
    return values if pa.types.is_dictionary(values.type) else values.dictionary_encode()


def _turned(context: _Context, known: list[str], spelled: list[bool], reading: Reading) -> Typed:
    import pyarrow as pa

    read_as = dict(zip(known, reading.values, strict=True))

    def along(values: list[Any], kind: Any) -> Any:
        return arrow_arrays.listed(values, kind).take(context.encoded.indices)

    every = list(zip(context.distinct, spelled, strict=True))
    values = along([None if gone else read_as[value] for value, gone in every], reading.type)
    gone = {value for value, is_gone in every if is_gone and value}
    units = None
    if reading.units is not None:
        unit_of = dict(zip(known, reading.units, strict=True))
        units = along([None if is_gone else unit_of[value] for value, is_gone in every], pa.string())
    step = Step(do="read texts", column=context.name, facts={**reading.facts, "missing": sorted(gone)})
    problems = []
    if reading.repair is not None:
        count, shown = context.examples(set(reading.changed))
        problems.append(
            Problem(
                check=reading.check,
                severity="repair",
                column=context.name,
                rows=count,
                examples=shown,
                message=phrased("{column} was read as {what}.", column=repr(context.name), what=reading.repair),
                repair=phrased("read as {what}", what=reading.repair),
                step=step,
            )
        )
    if gone:
        problems.append(_gone(context, gone, KINDS[reading.what], step))
    return Typed(values=values, unit=reading.unit, problems=tuple(problems), units=units)


def _gone(context: _Context, gone: set[str], among: str, step: Step) -> Problem:
    """That texts count as missing among what else a column holds."""
    count, shown = context.examples(gone)
    words = ", ".join(repr(value) for value in sorted(gone)[:4])
    return Problem(
        check="missing values",
        severity="repair",
        column=context.name,
        rows=count,
        examples=shown,
        message=phrased_count(
            count,
            "{n} cell of {column} says {words} among {what}; it counts as missing.",
            "{n} cells of {column} say {words} among {what}; they count as missing.",
            column=repr(context.name),
            words=words,
            what=among,
        ),
        repair=phrased("{words} counted as missing", words=words),
        step=step,
    )


def _fast(values: Any) -> Any | None:
    """Plain numbers and ISO dates, over the whole column at once; the text itself for identifiers."""
    import pyarrow as pa
    import pyarrow.compute as pc

    sample = values.slice(0, 50).drop_null()
    first = sample[0].as_py().strip() if len(sample) else None
    if first is not None and first[:1] not in "+-.0123456789":
        return None
    if pa.types.is_dictionary(values.type):
        # Of few words, though its first cells are blank: nothing that is read at a glance.
        return None
    text = pc.utf8_trim_whitespace(values)
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
            # Months such as 01.2024 are looked at one by one.
            return None if kind == pa.float64() and _all(sample, _POINTED_MONTH) else values
        # "nan" and "inf" are words, not numbers.
        odd = kind == pa.float64() and not pc.all(pc.is_finite(cast)).as_py()
        return None if odd or (kind == pa.float64() and _doubtful(text)) else cast
    return values if _any(sample, _LONG_DIGITS) and _all(text, _LONG_DIGITS) else None


def _doubtful(text: Any) -> bool:
    """Whether numbers with points could be whole thousands ("1.234"), or powers ("12E3") codes: they are looked at one
    by one then."""
    if _any(text, r"^\d+[eE]\d+$"):
        return True
    sample = text.slice(0, 50).drop_null()
    return _all(sample, number_formats.GROUPED) and _all(text.drop_null(), number_formats.GROUPED)


def _all(text: Any, pattern: str) -> bool:
    import pyarrow.compute as pc

    return bool(pc.all(pc.match_substring_regex(text, pattern)).as_py())


def _any(text: Any, pattern: str) -> bool:
    import pyarrow.compute as pc

    return bool(pc.any(pc.match_substring_regex(text, pattern)).as_py())
