"""What is measured in a question, broken down by what, ranked how."""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import replace

from ..aggregation.measure_names import spoken
from ..aggregation.measures import default_measures, lead_measure
from ..tables import Column, Role, Table
from .asked import Measured, Problem
from .parse import Parse
from .words import fold

#: Aggregates of what "number of" gives.
_OF_NUMBERS = ("mean", "median", "max", "min", "total")
#: Natures of numbers that are not added up.
_NOT_ADDED = frozenset({"share", "price", "score", "reading"})


def measures(parse: Parse, groups: Collection[int] = ()) -> list[Measured]:
    """The measures named, each from its column, its aggregate and what it is divided by; none of those that stand at
    the places of `groups`."""
    made: list[Measured] = []
    narrowed(parse)
    for place in parse.columns("cy"):
        if place in parse.used or place in groups:
            continue
        made.append(_one(parse, place))
    return made


def narrowed(parse: Parse) -> None:
    """Words that each could name several columns, and one together: "landed most cod"; a thing named by two words."""
    for place in parse.columns("cy"):
        behind = parse.next(place)
        one, other = parse.at(place), parse.at(behind)
        if one is None or other is None or other.kind != "column" or len(one.columns) > 1:
            continue
        if one.columns == other.columns and fold(one.words) != fold(other.words):
            parse.use(behind, f"column {other.column}")
    named_in_parts(parse)
    open_ = [place for place in parse.free("column") if len(parse.items[place].columns) > 1]
    for place in open_:
        if place in parse.used:
            continue
        names = set(parse.items[place].columns)
        for near in parse.free("column"):
            if (
                near != place
                and names & set(parse.items[near].columns)
                and not (parse.items[near].whole and len(parse.items[near].columns) == 1 and parse.code(near) == "d")
            ):
                shared = tuple(name for name in parse.items[near].columns if name in names)
                if len(shared) < len(names):
                    parse.items[near] = replace(parse.items[near], columns=shared)
                    parse.use(place, f"column {', '.join(shared[:3])}")
                    break


def named_in_parts(parse: Parse) -> None:
    """ "need a follow up", of follow_up_needed: two pieces of one name with an article between."""
    for place in parse.columns("cy"):
        one, other = parse.at(place), parse.at(place + 2)
        article = parse.kind(place + 1) == "by" and fold(parse.items[place + 1].words) in ("a", "an")
        if one is None or other is None or not article or other.kind != "column":
            continue
        if one.columns == other.columns and not one.whole and not other.whole:
            parse.use(place + 1, "of")
            parse.use(place + 2, f"column {other.column}")


def _one(parse: Parse, place: int) -> Measured:
    aggregate, said = _aggregate_beside(parse, place)
    column = parse.column(place)
    assert column is not None
    behind = parse.next(place)
    if parse.kind(behind) == "arithmetic" and parse.tag(behind) in ("divide", "minus", "plus"):
        other = parse.next(behind)
        if parse.code(other) == "c" and parse.column(other) == column:
            # "water sales … as a share of all water sales"
            parse.use(behind, "share of")
            parse.use(other, f"column {column.name}")
            parse.as_share = True
        elif parse.code(other) == "c":
            return _two(parse, place, behind, other, {"divide": "/", "minus": "-", "plus": "+"}[parse.tag(behind)])
    if parse.kind(behind) == "by" and parse.tag(behind) in ("per", "each"):
        other = parse.next(behind)
        if parse.code(other) == "c":
            return _two(parse, place, behind, other, "/")
        if parse.code(other) == "rows" and parse.items[behind].words.casefold() not in ("a", "an"):
            parse.use(place, f"column {column.name}")
            parse.use(behind, "per")
            parse.use(other, "rows")
            kept = aggregate if aggregate in ("median", "max", "min") else "mean"
            for extra in parse.all_of("aggregate", tag="mean"):
                parse.use(extra, "aggregate mean")
            return Measured(aggregate=kept, column=column.name, said=True)
    parse.use(place, f"column {column.name}")
    return Measured(aggregate=fitting(aggregate, column, parse), column=column.name, said=said)


def ratio(parse: Parse) -> Measured | None:
    """ "ratio of passengers to capacity"."""
    place = parse.first("arithmetic", tag="ratio")
    if place is None:
        return None
    first = parse.next(place)
    joint = parse.next(first)
    second = parse.next(joint)
    if parse.code(first) == "c" and parse.code(second) == "c" and parse.kind(joint) in ("arithmetic", "join"):
        parse.use(place, "ratio")
        return _two(parse, first, joint, second, "/")
    return None


def _two(parse: Parse, place: int, sign_place: int, other: int, sign: str) -> Measured:
    first, second = parse.column(place), parse.column(other)
    assert first is not None
    assert second is not None
    parse.use(place, f"column {first.name}")
    parse.use(sign_place, {"/": "divided by", "-": "minus", "+": "plus"}[sign])
    parse.use(other, f"column {second.name}")
    return Measured(aggregate="sum", column=first.name, over=second.name, sign=sign, said=True)


def _aggregate_beside(parse: Parse, place: int) -> tuple[str, bool]:
    """The aggregate named before a column, or behind it ("on average")."""
    for beside in (parse.back(place), parse.next(place)):
        item = parse.at(beside)
        if item is None or item.kind != "aggregate":
            continue
        if beside > place and item.tag in ("count", "distinct", "max", "min"):
            continue
        if beside > place and parse.code(parse.next(beside)) in ("c", "y", "rows", "d"):
            # It belongs to what comes behind it.
            continue
        parse.use(beside, f"aggregate {item.tag}")
        further = parse.back(beside)
        of_numbers = parse.kind(further) == "aggregate" and parse.tag(further) in _OF_NUMBERS
        if beside < place and item.tag == "count" and of_numbers:
            # "average number of passengers"
            return parse.use(further, f"aggregate {parse.tag(further)}").tag, True
        if item.tag == "distinct" and parse.tag(parse.back(beside)) == "count":
            parse.use(parse.back(beside), "count")
        return item.tag, True
    return "", False


def fitting(aggregate: str, column: Column, parse: Parse) -> str:
    """What is done with a column: what was said, or what its nature asks for."""
    if column.type == "boolean":
        return "rate" if aggregate in ("", "mean") else aggregate
    if aggregate == "total" and column.nature == "reading":
        # Of weights and lengths whoever asks knows whether they add up.
        parse.notes.append(f"{column.name} is added up as was asked; a scan takes it for a {column.nature}.")
    elif aggregate == "total" and column.nature in _NOT_ADDED:
        parse.notes.append(f"{column.name} is a {column.nature}, which is not added up: the average is given.")
        return "mean"
    if aggregate == "count":
        if column.adds_up or column.nature in ("count", "flow"):
            return "total"
        raise Problem(
            f"“How many” of {spoken(column.name)} is not clear: its total, its average, or the rows with one?",
            "how many of what", {"column": column.name},
            alternatives=(f"total {spoken(column.name)}", f"average {spoken(column.name)}"),
        )  # fmt: skip
    return aggregate


def is_averaged(column: Column, averaged: tuple[str, ...]) -> bool:
    """Whether of several figures of a column the average is meant though they could be added: salaries, prices."""
    name = f" {fold(spoken(column.name))} "
    return column.type == "number" and any(f" {word} " in name for word in averaged)


#: Names of money that a question without a measure is taken to be about.
_MONEY = ("revenue", "sales", "turnover", "amount", "income", "profit")


def lead(table: Table) -> Measured:
    """The measure that a table is mostly about."""
    measure = lead_measure(default_measures(table))
    column = measure.column or (measure.top[0][1].column if len(measure.top) == 1 else "")
    return Measured(aggregate="", column=column) if column else Measured(aggregate="count")


def assumed(table: Table) -> Measured:
    """The measure that is meant where none was named. Raises Problem where it could be one as well as another."""
    found = lead(table)
    added = [column for column in table.with_role(Role.MEASURE) if column.adds_up]
    named = found.column is not None and any(word in fold(found.column) for word in _MONEY)
    if named or len(added) == 1:
        return found
    shown = tuple(spoken(column.name) for column in added[:6])
    raise Problem("By which figure?", "which measure", {"names": list(shown)}, alternatives=shown)


def hinted(word: str, parse: Parse) -> Column | None:
    """The one column of numbers that an order without a figure is told by: "the longest", "the dearest"."""
    names = {name for part in word.split() for name in parse.words.hints.get(part, ())}
    fitting = [c for c in parse.table.columns if c.type == "number" and set(fold(spoken(c.name)).split()) & (
        names | {f"{name}s" for name in names})]  # fmt: skip
    return fitting[0] if len(fitting) == 1 else None


def sql_of(one: Measured, table: Table, averaged: tuple[str, ...] = ()) -> str:
    """The measure as an SQL aggregate, or as the bare name of a column that has a measure of its own."""
    from ..sql.expressions import quote_name

    if one.column is None:
        if one.condition:
            # Rows where it cannot be said do not meet it: whoever counts finds the same.
            return f"avg(CAST(({one.condition}) IS TRUE AS INT))"
        return "count(*)"
    column = table.column(one.column)
    name = column_sql(column.name)
    if one.condition:
        amount = f"CASE WHEN {one.condition} THEN {quote_name(column.name)} END"
        return f"sum({amount}) / sum({quote_name(column.name)})"
    if one.over is not None:
        below = column_sql(one.over)
        if one.sign == "/":
            return f"sum({name}) / sum({below})"
        return f"sum({name}) {one.sign} sum({below})"
    of_its_own = column.weighed is not None or len(column.weights) == 1
    aggregate = one.aggregate
    if aggregate == "" and not of_its_own:
        aggregate = "total" if column.adds_up in (True, None) and not is_averaged(column, averaged) else "mean"
    if aggregate in ("", "mean", "rate") and of_its_own:
        return column.name
    called = {"total": "sum", "mean": "avg", "rate": "avg", "max": "max", "min": "min", "sum": "sum"}
    if aggregate == "median":
        return f"median({name})"
    if aggregate == "distinct":
        return f"count(DISTINCT {name})"
    return f"{called[aggregate]}({name})"


def column_sql(name: str) -> str:
    from ..sql.expressions import quote_name

    return name if name.isidentifier() and name.isascii() and name == name.lower() else quote_name(name)


def dimension_measures(parse: Parse, ask: Callable[[int], bool]) -> list[Measured]:
    """ "how many vessels", "number of different routes": labels counted."""
    made = []
    for place in parse.columns("dk"):
        before = parse.back(place)
        if parse.kind(before) == "aggregate" and parse.tag(before) in ("count", "distinct") and ask(place):
            column = parse.column(place)
            assert column is not None
            further = parse.back(before)
            if parse.kind(further) == "aggregate" and parse.tag(further) == "count":
                parse.use(further, "count")
            parse.use(before, f"aggregate {parse.items[before].tag}")
            parse.use(place, f"column {column.name}")
            whole = column.role is Role.KEY and column.distinct == parse.table.rows
            made.append(Measured(aggregate="count", said=True) if whole else Measured(
                aggregate="distinct", column=column.name, said=True))  # fmt: skip
    return made
