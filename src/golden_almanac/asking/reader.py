"""A question read: what it asks, what each of its words was taken for, or why it cannot be read."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from ..analysis.scan_pipeline import timeline_for
from ..tables import Column, Role, Table, Timeline
from . import guidance
from .asked import Asked, Problem, Traced
from .follow_up import STARTS, followed
from .grammar import asked_of
from .lexicon import Lexicon, lexicon
from .parse import Parse
from .places import Item, Places
from .requests import Call, call_of
from .spans import iso
from .vocabulary import Vocabulary, vocabulary
from .wording import measure_words
from .words import MOST_LETTERS, MOST_WORDS, Token, stem, tokens


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """How a question was read. `asked` and `call` are None where it was not: `problem` says why, in one sentence.
    `trace` accounts for every word; `unread` are those that nothing was made of; `notes` what was decided."""

    question: str
    asked: Asked | None = None
    call: Call | None = None
    trace: tuple[Traced, ...] = ()
    unread: tuple[str, ...] = ()
    problem: str = ""
    code: str = ""
    alternatives: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()

    @property
    def status(self) -> str:
        """answered, ambiguous or refused."""
        if self.asked is not None:
            return "answered"
        return "ambiguous" if self.code in ("several columns", "several labels", "how many of what") else "refused"


def read(
    question: str, table: Table, *, before: Asked | None = None, defined: Mapping[str, str] | None = None
) -> Reading:
    """The reading of a question; never raises for what people write. With `before`, what was asked before it, a
    question may be a piece ("and by vessel?"); `defined` are measures that were described, with their SQL."""
    words = lexicon()
    refused = _unreadable(question, words)
    if refused is not None:
        return refused
    asks: list[Callable[[Parse, list[str]], Asked]] = [lambda parse, low: asked_of(parse)]
    if before is not None:
        earlier = before
        asks.append(lambda parse, low: followed(parse, earlier, low))
        if _is_piece(tokens(question)):
            asks.reverse()
    tried = [_tried(question, table, ask, words, defined or {}) for ask in asks]
    return next((one for one in tried if one.asked is not None), tried[0])


def _is_piece(said: Sequence[Token]) -> bool:
    """Whether a question looks like one that follows another."""
    return len(said) <= 2 or said[0].low in STARTS


def _tried(
    question: str, table: Table, ask: Callable[[Parse, list[str]], Asked], words: Lexicon, defined: Mapping[str, str]
) -> Reading:
    said = tokens(question)
    line = line_of(table)
    known = _with_defined(vocabulary(table, words), defined)
    parse = Parse(table, known, words, line, Places(said, known, words, line).items())
    try:
        asked = ask(parse, [token.low for token in said])
        call = call_of(asked, table, defined)
    except Problem as problem:
        return Reading(
            question=question, problem=guidance.told(problem, parse), code=problem.code, trace=_trace(parse),
            unread=problem.unread, alternatives=guidance.alternatives(problem, parse),
        )  # fmt: skip
    return Reading(question=question, asked=asked, call=call, trace=_trace(parse), notes=_notes(parse, asked, table))


def _notes(parse: Parse, asked: Asked, table: Table) -> tuple[str, ...]:
    """What was decided that nobody said: a figure, a span, from which day "last year" counts."""
    made = list(parse.notes)
    if "measure" in asked.assumed and asked.measures:
        made.append(f"No figure was named; {measure_words(asked.measures[0], table)} is taken.")
    if "period" in asked.assumed and asked.period is not None:
        made.append(f"No span was named; {asked.period} is taken.")
    for item in parse.items:
        span = item.span
        if span is None:
            continue
        if span.relative and span.period is not None and parse.line is not None:
            made.append(
                f"“{item.words}” is {iso(span.period)}, counted from {parse.line.last_day}, the last day of the data."
            )
        elif span.note:
            made.append(f"“{item.words}” is that of {span.note} of the data.")
    return tuple(dict.fromkeys(made))


def _with_defined(known: Vocabulary, defined: Mapping[str, str]) -> Vocabulary:
    """The vocabulary with the measures that were described, as columns of their own."""
    if not defined:
        return known
    columns, exact = dict(known.columns), dict(known.exact)
    sizes = dict(known.sizes)
    for name in defined:
        stems = tuple(stem(token.low) for token in tokens(name))
        columns[name] = Column(
            name=name, original=name, type="number", role=Role.MEASURE, adds_up=False, unit=None, missing=0, distinct=0,
            nature="defined",
        )  # fmt: skip
        exact[stems] = [name]
        sizes[name] = len(stems)
    return replace(known, columns=columns, exact=exact, sizes=sizes)


def line_of(table: Table) -> Timeline | None:
    key = ("question line",)
    if key not in table._cache:
        table._cache[key] = timeline_for(table)
    return table._cache[key]  # type: ignore[no-any-return]


def _trace(parse: Parse) -> tuple[Traced, ...]:
    """Every word with what it was taken for, in the order of the question."""
    told: list[tuple[int, Traced]] = []
    for place, item in enumerate(parse.items):
        made = parse.used.get(place)
        told.append((item.first, made or Traced(words=item.words, meaning="", kind="unread")))
    told += [(item.first, Traced(words=item.words, meaning=_small(item), kind="small word")) for item in parse.fillers]
    return tuple(one for _, one in sorted(told, key=lambda pair: pair[0]))


def _small(item: Item) -> str:
    return "politeness" if item.tag == "polite" else "holds the others together"


def _unreadable(question: str, words: Lexicon) -> Reading | None:
    """What is no question at all: empty, endless, another language."""
    said = tokens(question[: 2 * MOST_LETTERS])
    if not any(any(letter.isalpha() for letter in token.low) for token in said):
        return Reading(question=question, problem="There is no question to answer.", code="empty")
    if len(question) > MOST_LETTERS or len(said) > MOST_WORDS:
        return Reading(
            question=question[:200], problem=f"A question has at most {MOST_WORDS} words. Ask one thing at a time.",
            code="long",
        )  # fmt: skip
    language = _language(said, words)
    if language:
        return Reading(
            question=question,
            problem=f"Questions are read in English; this one looks {language.capitalize()}.",
            code="language",
        )
    return None


def _language(said: Sequence[Token], words: Lexicon) -> str:
    for name, listed in words.foreign.items():
        hits = sum(token.low in listed for token in said)
        english = sum((token.low,) in words.phrases for token in said)
        if hits >= 2 and hits > english:
            return name
    return ""
