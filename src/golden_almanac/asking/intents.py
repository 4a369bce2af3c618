"""Questions that an analysis answers: why, what drives, how two go together, whether they differ, what a scan tells."""

from __future__ import annotations

from ..support.english_nouns import singular
from ..tables import Grain
from . import measuring
from .asked import Asked, Measured, Problem
from .clauses import Parts, aside, conditions, left_over, not_read, pair_of, rows_counted
from .grouping import labels_by
from .parse import Parse
from .words import fold


def why(parse: Parse, parts: Parts, intent: str) -> Asked:
    for place in parse.all_of("change", "pace", "trend"):
        parse.use(place, f"change {parse.items[place].tag}")
    for place in parse.all_of("negation"):
        if parse.items[place].plain in ("not", "didnt", "doesnt"):
            parse.use(place, "not")
    for place in parse.all_of("superlative"):
        parse.use(place, parse.items[place].tag)
    aside(parse, "comparing")
    assumed: tuple[str, ...] = ()
    rates = parse.all_of("share")
    for place in rates:
        parse.use(place, "rate")
    found = measuring.measures(parse)
    if not found:
        if parse.first("column") is not None or any(parse.kind(place) == "unread" for place in range(len(parse.items))):
            raise Problem(not_read(left_over(parse)), "unread", unread=left_over(parse))
        counted = rows_counted(parse)
        found = [counted or measuring.assumed(parse.table)]
        if counted is None:
            assumed = ("measure",)
    if len(found) > 1:
        raise Problem("One measure at a time can be explained.", "one measure")
    period, baseline = pair_of(parts)
    by = labels_by(parse)
    _grain_aside(parse)
    return Asked(
        intent="why", measures=(found[0],), by=by, filters=tuple(parts.filters), period=period, baseline=baseline,
        assumed=assumed,
    )  # fmt: skip


def _grain_aside(parse: Parse) -> None:
    for place in parse.all_of("grain"):
        before = parse.back(place)
        if parse.kind(before) == "by":
            parse.use(before, "by")
        parse.use(place, f"by {parse.items[place].tag}")


def outlook(parse: Parse, parts: Parts, intent: str) -> Asked:
    """ "what will revenue be next month", "forecast passengers for the next 6 months by route"."""
    ahead, grain = _ahead(parse)
    if parts.periods:
        raise Problem(
            "A forecast begins where the data end: say how far it goes, as in “the next 6 months”.", "two spans"
        )
    found = measuring.measures(parse)
    if not found:
        if parse.first("column") is not None or any(item.kind == "unread" for item in parse.items):
            raise Problem(not_read(left_over(parse)), "unread", unread=left_over(parse))
        found = [rows_counted(parse) or measuring.assumed(parse.table)]
    aside(parse, "change", "trend", "aggregate")
    by = labels_by(parse)
    if len(found) > 1 or len(by) > 1:
        raise Problem("One measure at a time is forecast, by one column at most.", "one measure")
    return Asked(
        intent="outlook", measures=(found[0],), by=by, filters=tuple(parts.filters), grain=grain, ahead=ahead,
        assumed=() if found[0].column or found[0].said else ("measure",),
    )  # fmt: skip


#: Months of a longer period: few tables have years enough to be forecast by the year.
_MONTHS = {"year": 12, "quarter": 3}


def _ahead(parse: Parse) -> tuple[int | None, str | None]:
    """How many periods, and of which grain: "the next 6 months"."""
    for place in parse.all_of("outlook", tag="next"):
        behind, count = parse.next(place), 1
        item = parse.at(behind)
        if item is not None and item.kind == "number":
            count = int(item.number)
            parse.use(behind, f"{count} periods ahead")
            behind = parse.next(behind)
        grain = _grain_at(parse, behind)
        if grain is None or count < 1:
            continue
        parse.use(place, "ahead")
        parse.use(behind, f"by {grain}")
        if grain in _MONTHS:
            return count * _MONTHS[grain], "month"
        return count, grain
    return None, None


def _grain_at(parse: Parse, place: int) -> str | None:
    """The grain that a word names, be it the name of the column of dates as well: "next month", of a column month."""
    if parse.kind(place) == "grain":
        return parse.tag(place)
    item = parse.at(place)
    word = "" if item is None or parse.code(place) != "t" else singular(fold(item.words))
    return word if word in tuple(Grain) else None


def drivers(parse: Parse, parts: Parts, intent: str) -> Asked:
    aside(parse, "share", "aggregate", "superlative", "change", "comparing", "relation")
    found = _outcome_only(parse, "what is to be explained")
    return Asked(intent="drivers", measures=(found[0],), filters=conditions(parse, parts), by=tuple(
        one.column for one in found[1:] if one.column))  # fmt: skip


def _outcome_only(parse: Parse, what: str) -> list[Measured]:
    found = measuring.measures(parse)
    if not found:
        raise Problem(f"Which column is {what}?", "no outcome")
    return found


def relation(parse: Parse, parts: Parts, intent: str) -> Asked:
    """Two columns of numbers; or one and labels, which are compared."""
    aside(parse, "aggregate", "comparing", "change")
    measuring.narrowed(parse)
    places = list(parse.columns("cyd"))
    if len(places) != 2:
        raise Problem("A relation is between two columns; name both.", "two columns")
    codes = [parse.code(place) for place in places]
    depends = any(
        item.kind == "relation" and item.words.casefold().startswith(("depend", "vary", "varies"))
        for item in parse.items
    )
    columns = [parse.column(place) for place in places]
    for place, column in zip(places, columns, strict=True):
        assert column is not None
        parse.use(place, f"column {column.name}")
    first, second = (column.name if column is not None else "" for column in columns)
    filters = conditions(parse, parts)
    if "y" in codes and "d" not in codes:
        # Yes and no are two groups.
        groups = codes.index("y") if codes != ["y", "y"] else 1
        outcome, by = (second, first) if groups == 0 else (first, second)
        return Asked(intent="difference", measures=(Measured(aggregate="", column=outcome),), by=(by,), filters=filters)
    if "d" in codes:
        outcome, by = (second, first) if codes[0] == "d" else (first, second)
        if codes == ["d", "d"]:
            outcome, by = first, second
        return Asked(intent="difference", measures=(Measured(aggregate="", column=outcome),), by=(by,), filters=filters)
    pair = (second, first) if depends else (first, second)
    return Asked(intent="relation", pair=pair, filters=filters)


def difference(parse: Parse, parts: Parts, intent: str) -> Asked:
    aside(parse, "aggregate", "comparing", "share")
    by = list(labels_by(parse))
    for place in parse.columns("d"):
        column = parse.column(place)
        assert column is not None
        parse.use(place, f"column {column.name}")
        by.append(column.name)
    flags = list(parse.columns("y"))
    if not by and len(flags) == (1 if parse.columns("c") else 2):
        # "does the fee differ by night", "does churn differ by plan": yes and no are two groups.
        place = flags[-1]
        column = parse.column(place)
        assert column is not None
        parse.use(place, f"column {column.name}")
        by.append(column.name)
    found = measuring.measures(parse)
    labelled = [one for one in parts.filters if one.labels and len(one.labels) > 1 and not one.negated]
    if labelled and not by:
        by = [labelled[0].column]
    if len(by) == 2 and not found:
        found, by = [Measured(aggregate="", column=by[0])], by[1:]
    if len(found) != 1 or len(by) != 1:
        raise Problem("A comparison is of one column between the groups of another; name both.", "two columns")
    return Asked(intent="difference", measures=(found[0],), by=(by[0],), filters=conditions(parse, parts))


def scan(parse: Parse, parts: Parts, intent: str) -> Asked:
    aside(
        parse,
        "trend",
        "season",
        "unusual",
        "change",
        "comparing",
        "superlative",
        "negation" if intent == "season" else "season",
    )
    counted = None
    if parse.first("aggregate", tag="count") is not None:
        counted = rows_counted(parse)
    for place in parse.all_of("share", "aggregate"):
        parse.use(place, parse.items[place].tag)
    found = measuring.measures(parse) if counted is None else [counted]
    by = labels_by(parse)
    for place in parse.columns("d"):
        column = parse.column(place)
        assert column is not None
        parse.use(place, f"column {column.name}")
        by = (*by, column.name)
    grains = [parse.items[place].tag for place in parse.all_of("grain")]
    _grain_aside(parse)
    return Asked(
        intent=intent, measures=tuple(found), by=by, filters=conditions(parse, parts),
        grain=grains[0] if grains and intent == "trend" else None,
    )  # fmt: skip
