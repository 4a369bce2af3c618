"""What is said where a question cannot be read: the nearest names, what there is, what can be asked."""

from __future__ import annotations

from ..aggregation.measure_names import spoken
from ..support.english_nouns import plural
from ..tables import Column, Role, Table
from .asked import Problem
from .measuring import lead
from .parse import Parse
from .words import stem

_MOST = 3


def told(problem: Problem, parse: Parse) -> str:
    """The sentence, with the nearest names where a word matched nothing."""
    if problem.code != "unread" or not problem.unread:
        return problem.why
    near = [name for word in problem.unread[:2] for name in _near(word, parse)]
    made = [problem.why]
    if near:
        made.append(f"Near it: {', '.join(dict.fromkeys(near[:4]))}.")
    for word in problem.unread:
        parts = parse.words.made_of.get(word.casefold().removesuffix("s"))
        columns = [] if parts is None else [_of(part, parse) for part in parts]
        if columns and all(columns):
            first, second = (column.name for column in columns if column is not None)
            made.append(f"{first} minus {second} would be one.")
    measures = [spoken(column.name) for column in parse.table.with_role(Role.MEASURE)][:6]
    if not near and measures:
        made.append(f"There are figures of {', '.join(measures)}.")
    return " ".join(made)


def _of(word: str, parse: Parse) -> Column | None:
    group = parse.words.synonyms.get(stem(word), (stem(word),))
    for name, column in parse.known.columns.items():
        if column.role is Role.MEASURE and any(name in parse.known.words.get(other, ()) for other in group):
            return column
    return None


def _near(word: str, parse: Parse) -> list[str]:
    """Columns and labels that are spelled like a word."""
    from rapidfuzz import fuzz, process

    choices = [spoken(column.name) for column in parse.table.columns if column.role is not Role.IGNORED]
    choices += [label for pairs in list(parse.known.labels.values())[:5_000] for _, label in pairs[:1]]
    found = process.extract(word, choices, scorer=fuzz.ratio, score_cutoff=70, limit=3, processor=str.casefold)
    return [str(name) for name, _, _ in found]


def alternatives(problem: Problem, parse: Parse) -> tuple[str, ...]:
    """Questions that can be asked instead."""
    if problem.alternatives and problem.code in ("several columns", "several labels"):
        words = str(problem.places.get("words", ""))
        return tuple(_instead(parse, words, spoken(name) if problem.code == "several columns" else name)
                     for name in problem.alternatives[:_MOST])  # fmt: skip
    if problem.alternatives:
        return problem.alternatives[:_MOST]
    if problem.code == "unread":
        for word in problem.unread:
            parts = parse.words.made_of.get(word.casefold().removesuffix("s"))
            columns = [] if parts is None else [_of(part, parse) for part in parts]
            if columns and all(columns):
                first, second = (spoken(column.name) for column in columns if column is not None)
                return (f"{first} minus {second}", *plain_questions(parse.table)[: _MOST - 1])
    return plain_questions(parse.table)[:_MOST]


def _instead(parse: Parse, words: str, name: str) -> str:
    """The question with a word put plainly."""
    text = " ".join(item.words for item in sorted((*parse.items, *parse.fillers), key=lambda item: item.first))
    return text.replace(words, name, 1) if words else text


def plain_questions(table: Table) -> tuple[str, ...]:
    """A few questions that any table can answer."""
    measure = lead(table)
    dimensions = [column for column in table.with_role(Role.DIMENSION) if 2 <= column.distinct <= 60]
    made = []
    name = "the number of rows" if measure.column is None else spoken(measure.column)
    if dimensions:
        by = spoken(dimensions[0].name)
        made.append(f"{name} by {by}")
        made.append(f"top 3 {plural(by)} by {name}")
    if table.with_role(Role.TIME):
        made.append(f"{name} by month")
    made.append("describe the table")
    return tuple(made)
