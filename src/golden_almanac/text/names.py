"""What things are called in a sentence: measures, slices, dimensions."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from contextvars import ContextVar

from ..aggregation.measure_names import singular, spoken, times_of
from ..aggregation.measures import Measure
from ..findings import Finding, Slice
from ..support.english_nouns import plural as english_plural
from . import numbers
from .languages import Noun, joined, mark, pronoun, qualified, say, voice
from .languages import capital as capital
from .languages import noun as noun
from .languages.inflection import known, plain, written


def measure_name(measure: Measure | None) -> Noun:
    """A measure as a noun: "revenue", "average delay", "revenue per passenger"."""
    if measure is None:
        return noun("the value")
    if voice().english or known(measure.label):
        return noun(measure.label)
    return _composed(measure)


def _composed(measure: Measure) -> Noun:
    """The name of a measure from what it is made of, in a language other than English."""
    if measure.column:
        return noun(spoken(measure.column, measure.unit))
    if measure.between:
        return noun(say("average time from {first} to {last}", first=measure.between[0], last=measure.between[1]))
    if len(measure.top) != 1 or len(measure.bottom) > 1 or not measure.top[0][1].column:
        return noun(measure.label)
    part = measure.top[0][1]
    base = noun(spoken(part.column, measure.unit if measure.kind != "ratio" else None))
    language = voice().language
    gender = base.gender + ("p" if base.number == "many" else "")
    if measure.kind == "mean":
        if measure.share and spoken(part.column).endswith("rate"):
            return base
        return written(
            say("{name} rate", name=base, gender=gender)
            if measure.share
            else say("average {name}", name=base, gender=gender),
            language,
        )
    if measure.kind == "ratio":
        below = measure.bottom[0][1]
        per_one = noun(spoken(below.column)) if below.column else noun("rows")
        if times_of(measure.factor):
            return qualified(base, mark("{noun} per {n} {unit}"), n=numbers.plain(measure.factor), unit=per_one)
        return qualified(base, mark("{noun} per {unit}"), unit=per_one)
    if part.kind == "count":
        return qualified(noun("rows"), mark("{noun} with {name}"), name=base)
    if part.kind == "sum":
        return base
    if part.kind == "distinct":
        return written(say("distinct {name}", name=base, gender=gender), language)
    return written(
        say("lowest {name}", name=base, gender=gender)
        if part.kind == "min"
        else say("highest {name}", name=base, gender=gender),
        language,
    )


def column(name: str, unit: str | None = None) -> Noun:
    """A column as a noun: "fuel cost"."""
    return noun(spoken(name, unit))


def many(measure: Measure | None) -> bool:
    """Whether a measure is spoken of as many: passengers, sales."""
    name = measure_name(measure)
    if not voice().english or name.number == "many":
        return name.number == "many"
    counted = name.partition(" per ")[0] if measure is not None and measure.kind == "ratio" else name
    said = measure is not None and (measure.additive or (measure.kind == "ratio" and not measure.column))
    return said and ((counted.endswith("s") and counted[-2:] != "ss") or singular(counted) != counted)


def subject(measure: Measure | None, where: Slice | None = None) -> Noun:
    """The measure of a slice as the subject of a sentence, with which verbs agree."""
    before = _told_of.get()
    made = measure_name(measure) if where is None else of(measure, where)
    if before is not None and before == (measure, Slice() if where is None else where):
        return pronoun(made.in_plural() if many(measure) else made)
    return made.in_plural() if many(measure) else made


def weights(measure: Measure | None) -> Noun:
    """What the weights of an average or ratio are shares of: "rows", "passengers"."""
    below = [part.column for _, part in measure.bottom if part.kind == "sum"] if measure is not None else []
    return noun(spoken(below[0]) if below and below[0] else "rows")


def counted(measure: Measure) -> Noun:
    """What an average or ratio gives so many of: "complaints" of complaints per order."""
    column = measure.top[0][1].column
    return noun(spoken(column) if column else "rows")


#: The measure and slice that the sentence before was about.
_told_of: ContextVar[tuple[Measure | None, Slice] | None] = ContextVar("told_of", default=None)


@contextmanager
def told_of(measure: Measure | None, where: Slice) -> Iterator[None]:
    """Inside, what the sentence before was about is not named again: the same measure of the same slice is "it",
    another measure of the same slice is "passengers there"."""
    token = _told_of.set((measure, where))
    try:
        yield
    finally:
        _told_of.reset(token)


@contextmanager
def by_itself() -> Iterator[None]:
    """Inside, what is said stands alone: whatever was told before is named again."""
    token = _told_of.set(None)
    try:
        yield
    finally:
        _told_of.reset(token)


def of(measure: Measure | None, where: Slice) -> Noun:
    """ "revenue of Outer Bar", or "revenue" for the whole; "revenue there" of what was told of just before."""
    name = measure_name(measure)
    before = _told_of.get()
    if where.conditions and before is not None and where == before[1]:
        return qualified(name, mark("{noun} there"))
    if where.conditions and bare(where.conditions[0][1]):
        return qualified(name, mark("{noun} with {label}"), label=where_label(where))
    return qualified(name, mark("{noun} of {label}"), label=where_label(where)) if where.conditions else name


def where_label(where: Slice) -> str:
    """The labels of a slice as said: "Outer Bar", "Outer Bar, Peak"; "" for the whole."""
    return ", ".join(label_of(column, text) for column, text in where.conditions)


def slice_(where: Slice) -> str:
    """ "Outer Bar", "Outer Bar with Peak", "Outer Bar with Peak and Web": labels that belong together."""
    first, *more = (label_of(column, text) for column, text in where.conditions)
    return say("{label} with {others}", label=first, others=listed(more)) if more else first


def label(text: str | None) -> str:
    """A label as the reader's names have it, or what is said where it is missing."""
    if text is None:
        return say("(no value)")
    own = dict(voice().names).get(text)
    return _without_ends(text) if own is None else own.split(",")[0].strip()


def _without_ends(text: str) -> str:
    """A label without blanks at its ends, which nobody sees in a sentence; of blanks alone as it is."""
    return text.strip() or text


#: Labels that answer a question, in the languages of tables.
_ANSWERS = frozenset("yes no y n true false ja nein wahr falsch sí si verdadero falso oui non vrai faux".split())


def bare(text: str | None) -> bool:
    """Whether a label says nothing without its column: a number, yes or no."""
    if text is None:
        return False
    return text.strip().casefold() in _ANSWERS or text.strip().lstrip("+-").replace(".", "", 1).isdecimal()


def answer(text: str | None) -> str:
    """A label of a column of yes and no, which are our words for what it says, in the reader's language."""
    return {"yes": say("yes"), "no": say("no")}.get(text or "", label(text))


def label_of(by: str | None, text: str | None) -> str:
    """A label, with its column where it says nothing by itself: "Outer Bar", "deck 3"."""
    own = label(text)
    return joined(" ", [spoken(by), own]) if by and bare(text) and own == _without_ends(text or "") else own


def grain(finding: Finding) -> str | None:
    """The grain of a finding's period: "month"."""
    span = finding.period
    return None if span is None or span.grain is None else span.grain.value


def grain_noun(grain: str | None) -> Noun:
    """A grain as a noun: "month", "Monat"."""
    return noun(grain or "period")


def one_of(units: Noun) -> Noun:
    """One of what is counted: "passenger" of "passengers"."""
    if units.number == "many" or not voice().english:
        return plain(units.form("other")) if units.number == "many" else units
    return plain(singular(units))


def dimension(by: str | None) -> Noun:
    return noun(spoken(by or "group"))


def plural(by: str | None) -> Noun:
    """ "routes", "fare classes", "cities"."""
    word = dimension(by)
    if word.number == "many":
        return word
    if known(spoken(by or "group")):
        return written(f"{word.form('other')}, {word.gender.removesuffix('p')}p, {word}", voice().language)
    if not voice().english:
        return word.in_plural()
    return plain(_english_plural(word)).in_plural()


#: Ends of names that are no nouns: "paid by", "sold to".
_NO_NOUNS = frozenset("by at on to from of in for with via per as".split())


def _english_plural(word: str) -> str:
    return word + " labels" if word.rpartition(" ")[2] in _NO_NOUNS else english_plural(word)


def the_others(by: str | None, parent: Slice | None, besides: Sequence[str] = (), where: Slice | None = None) -> Noun:
    """ "the other routes", "the other routes of Outer Isles", "the other routes but Tern Rock"; beside a label that
    says nothing without its column "all the others": no plural is made of what may have none."""
    alone = where is not None and len(where.conditions) == 1 and bare(where.conditions[0][1])
    told = say("all the others") if alone else say("the other {parts}", parts=plural(by))
    others = plain(told).in_plural() if voice().english else written(told, voice().language)
    if parent is not None and parent.conditions:
        others = qualified(others, mark("{noun} of {label}"), label=where_label(parent))
    if 0 < len(besides) <= 2:
        return qualified(others, mark("{noun} but {labels}"), labels=listed([label(text) for text in besides]))
    return qualified(others, mark("{noun} that held course")) if besides else others


def per(grain: str | None) -> str:
    return say("a {grain}", grain=grain_noun(grain)) if grain else say("in all")


def each(measure: Measure | None, grain: str | None) -> str:
    """ " a month" behind an amount that adds up over periods; nothing behind others."""
    return f" {per(grain)}" if measure is not None and measure.additive and not measure.level else ""


def listed_clauses(parts: Sequence[str]) -> str:
    """Clauses behind one subject: "peak in July, and are lowest in January"."""
    return parts[0] if len(parts) == 1 else say("{first}, and {second}", first=parts[0], second=parts[1])


def listed(items: Sequence[str]) -> str:
    """ "a", "a and b", "a, b and c"."""
    if len(items) < 2:
        return items[0] if items else ""
    most, last = joined(", ", items[:-1]), items[-1]
    return say("{most} and {last}", most=most, last=last)
