"""What a file gave, before texts are read as numbers and dates."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from ...support.errors import SourceError
from ...support.phrasing import Either, phrased, phrased_count
from ...support.printable import visible
from ..private_names import is_among, wanted_of
from ..problems import Aside, Problem

#: Parts of more rows in all are not compared with one another.
_MOST_COMPARED = 300_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Origin:
    """Where a table comes from: the kind of source, sheet or table read, others that hold tables too, and how a
    text file is written. `part` is the column that names the file or sheet where several were stacked; `address` where
    a database is, without what is secret in it."""

    kind: str
    sheet: str | None = None
    table: str | None = None
    query: str | None = None
    others: tuple[str, ...] = ()
    encoding: str | None = None
    delimiter: str | None = None
    part: str | None = None
    address: str | None = None

    def to_dict(self) -> dict[str, Any]:
        return {
            "kind": self.kind,
            "sheet": self.sheet,
            "table": self.table,
            "others": list(self.others),
            "encoding": self.encoding,
            "delimiter": self.delimiter,
        }


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Loaded:
    """Columns (Arrow) under tidy `names`, with the `original` headings.

    `columns` is a list that typing takes apart, so that a large file is not held twice. `numbers` is the number a
    person sees beside each row, None when they run on from `first_row`. `stated` is true where the source has types
    of its own: there, plain digits kept as text were meant as text.
    """

    names: list[str]
    original: list[str]
    columns: list[Any]
    rows: int
    first_row: int
    origin: Origin
    problems: tuple[Problem, ...] = ()
    numbers: Any = None
    aside: tuple[Aside, ...] = ()
    stated: bool = False


def from_arrow(arrow: Any, kind: str) -> Loaded:
    """An Arrow table as it stands."""
    return Loaded(
        names=tidy_names([str(name) for name in arrow.column_names]),
        original=[str(name) for name in arrow.column_names],
        columns=list(arrow.columns),
        rows=arrow.num_rows,
        first_row=1,
        origin=Origin(kind=kind),
        stated=True,
    )


def tidy_names(header: list[str]) -> list[str]:
    """Unique names: a second "Amount" becomes "Amount 2", a blank heading "column N"."""
    names: list[str] = []
    seen: set[str] = set()
    for place, raw in enumerate(header, start=1):
        # A heading is shown, typed and written into SQL: what cannot be seen in it is spelled out.
        base = visible(" ".join(raw.split())) or f"column {place}"
        name, count = base, 1
        while name.casefold() in seen:
            count += 1
            name = f"{base} {count}"
        seen.add(name.casefold())
        names.append(name)
    return names


def same_columns(one: list[str], other: list[str]) -> bool:
    """True when two tables have the same headings, in any order and case."""
    return sorted(name.casefold() for name in one) == sorted(name.casefold() for name in other)


def stack(parts: list[tuple[str, Loaded]], column: str) -> Loaded:
    """Tables with the same columns, one below the other, and a column that names the part each row is from.

    A part may lack up to half of the columns; what it lacks is missing there, and it is said. Parts whose rows stand
    in another part again (the sheet of the year beside those of its months) are left out. Raises SourceError.
    """
    import numpy as np
    import pyarrow as pa

    parts, copies = _without_copies(parts)
    first_name, first = parts[0]
    names = list(first.names)
    original = list(first.original)
    for part, loaded in parts[1:]:
        known = {name.casefold() for name in names}
        shared = sum(name.casefold() in known for name in loaded.names)
        if shared < 0.5 * max(len(first.names), len(loaded.names)):
            raise SourceError(
                part,
                f"its columns ({', '.join(loaded.names[:6])}) are others than those of {first_name} "
                f"({', '.join(first.names[:6])})",
                "Read them apart, or give both the same headings.",
            )
        more = [place for place, name in enumerate(loaded.names) if name.casefold() not in known]
        names += [loaded.names[place] for place in more]
        original += [loaded.original[place] for place in more]
    problems = copies
    columns: list[Any] = [[] for _ in names]
    for part, loaded in parts:
        place_of = {name.casefold(): place for place, name in enumerate(loaded.names)}
        lacking = [name for name in names if name.casefold() not in place_of]
        if lacking:
            problems.append(
                Problem(
                    check="columns missing in a part",
                    severity="note",
                    column=None,
                    rows=loaded.rows,
                    message=phrased(
                        "{part} has no column {names}; its rows have no value there.",
                        part=part,
                        names=Either(map(repr, lacking[:6])),
                    ),
                )
            )
        for place, name in enumerate(names):
            at = place_of.get(name.casefold())
            columns[place].append(pa.nulls(loaded.rows) if at is None else loaded.columns[at])
        problems += [_of_part(problem, column, part) for problem in loaded.problems]
    label = column
    while label.casefold() in {name.casefold() for name in names}:
        label += " name"
    codes = np.repeat(np.arange(len(parts), dtype=np.int32), [loaded.rows for _, loaded in parts])
    named = pa.DictionaryArray.from_arrays(pa.array(codes), pa.array([part for part, _ in parts], pa.string()))
    numbers = [
        np.arange(loaded.rows) + loaded.first_row if loaded.numbers is None else loaded.numbers for _, loaded in parts
    ]
    return replace(
        first,
        names=[*names, label],
        original=[*original, label],
        columns=[*(_joined(chunks) for chunks in columns), pa.chunked_array([named])],
        rows=sum(loaded.rows for _, loaded in parts),
        origin=replace(first.origin, part=label),
        problems=tuple(problems),
        numbers=np.concatenate(numbers),
        aside=tuple(replace(row, part=part) for part, loaded in parts for row in loaded.aside),
        stated=all(loaded.stated for _, loaded in parts),
    )


def _of_part(problem: Problem, column: str, part: str) -> Problem:
    """A problem of one part, with the part's name where the reader and the log need it."""
    step = problem.step
    if step is not None and step.do == "find the table":
        step = replace(step, facts={**step.facts, column: part})
    return replace(
        problem,
        message=phrased("{table}: {text}", table=part, text=problem.message),
        examples=tuple((row, phrased("{text} [{part}]", text=text, part=part)) for row, text in problem.examples),
        step=step,
    )


def _without_copies(parts: list[tuple[str, Loaded]]) -> tuple[list[tuple[str, Loaded]], list[Problem]]:
    """The parts without those that only repeat rows of others, and what was left out."""
    if len(parts) < 2 or sum(loaded.rows for _, loaded in parts) > _MOST_COMPARED:
        return parts, []
    rows = [_row_counts(loaded) for _, loaded in parts]
    largest = max(range(len(parts)), key=lambda place: (parts[place][1].rows, -place))
    rest: Counter[Any] = Counter()
    for place, counted_rows in enumerate(rows):
        if place != largest:
            rest += counted_rows
    if rest <= rows[largest]:
        gone = [place for place in range(len(parts)) if place != largest]
    elif rows[largest] <= rest:
        gone = [largest]
    else:
        return parts, []
    kept = [loaded for place, loaded in enumerate(parts) if place not in gone]
    names = [parts[place][0] for place in gone]
    problem = Problem(
        check="parts that repeat others",
        severity="repair",
        column=None,
        rows=sum(parts[place][1].rows for place in gone),
        repair=phrased("not read"),
        message=phrased_count(
            len(names),
            "{parts} holds only rows that stand in {others} too, and was not read, so that nothing is counted twice.",
            "{parts} hold only rows that stand in {others} too, and were not read, so that nothing is counted twice.",
            parts=[repr(name) for name in names],
            others=[repr(name) for name, _ in kept][:4],
        ),
    )
    return kept, [problem]


def _row_counts(loaded: Loaded) -> Counter[Any]:
    order = sorted(range(len(loaded.names)), key=lambda place: loaded.names[place].casefold())
    cells = [[None if v is None else str(v) for v in loaded.columns[place].to_pylist()] for place in order]
    return Counter(zip(*cells, strict=True))


def _joined(chunks: list[Any]) -> Any:
    """One column of several; where the parts have different types, the texts as they stand."""
    import pyarrow as pa

    kinds = {str(chunk.type) for chunk in chunks if not pa.types.is_null(chunk.type)}
    if not kinds:
        wanted = pa.string()
    elif len(kinds) == 1:
        wanted = next(chunk.type for chunk in chunks if str(chunk.type) in kinds)
    elif all(pa.types.is_integer(c.type) or pa.types.is_floating(c.type) or pa.types.is_null(c.type) for c in chunks):
        wanted = pa.float64()
    else:
        wanted = pa.string()
    flat: list[Any] = []
    for chunk in chunks:
        cast = chunk.cast(wanted) if str(chunk.type) != str(wanted) else chunk
        flat += cast.chunks if isinstance(cast, pa.ChunkedArray) else [cast]
    return pa.chunked_array(flat, wanted)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Spots:
    """Where a row stands for a person: its number and, where several files or sheets were stacked, which."""

    numbers: Any = None
    first_row: int = 1
    parts: Any = field(default=None)

    def example(self, place: int, text: str) -> tuple[int, str]:
        row = self.first_row + place if self.numbers is None else int(self.numbers[place])
        return row, text if self.parts is None else phrased(
            "{text} [{part}]", text=text, part=str(self.parts[place].as_py())
        )


def without(loaded: Loaded, private: Sequence[str]) -> tuple[Loaded, tuple[str, ...]]:
    """What was loaded without the columns of these names, and the names that those had; texts of whole rows, which
    may quote them, go too."""
    wanted = wanted_of(private)
    kept = [
        place
        for place, names in enumerate(zip(loaded.names, loaded.original, strict=True))
        if not any(is_among(name, wanted) for name in names)
    ]
    gone = sorted(set(range(len(loaded.names))) - set(kept))
    hidden = tuple(dict.fromkeys(name for at in gone for name in (loaded.names[at], loaded.original[at]) if name))
    if not gone:
        return loaded, ()
    lost = {loaded.names[at] for at in gone}
    public = replace(
        loaded,
        names=[loaded.names[at] for at in kept],
        original=[loaded.original[at] for at in kept],
        columns=[loaded.columns[at] for at in kept],
        problems=tuple(replace(problem, examples=()) for problem in loaded.problems if problem.column not in lost),
        aside=tuple(replace(row, text="", cells={}) for row in loaded.aside),
    )
    return public, hidden
