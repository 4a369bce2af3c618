"""What a question breaks its figures down by: labels, yes and no, periods, parts of the calendar."""

from __future__ import annotations

from ..tables import Grain
from .asked import Measured
from .clauses import take
from .parse import Parse

#: Labels of a column that is broken down by because a question counts them out; numbers that may be labels.
_MOST_GROUPS = 60


def by_places(parse: Parse) -> list[int]:
    """Where columns are that are broken down by: behind "by", "each", "which", between commas."""
    made: list[int] = []
    for place in range(len(parse.items)):
        if parse.kind(place) not in ("by", "question", "join"):
            continue
        behind = parse.next(place)
        while parse.kind(behind) in ("superlative", "number") and behind not in parse.used:
            behind = parse.next(behind)
        if parse.kind(place) == "join" and not (made and parse.back(place) == made[-1]):
            continue
        if parse.code(behind) in ("d", "k", "c", "y"):
            code = parse.code(behind)
            if code == "c" and not _groups(parse, behind):
                continue
            if code == "y" and not _answers(parse, place, behind):
                continue
            made.append(behind)
    return made


def _answers(parse: Parse, link: int, place: int) -> bool:
    """Whether yes and no are broken down by here: "by cancelled", "by region and cancelled"; "and cancelled sailings"
    are some of them."""
    chosen = parse.kind(parse.next(place)) == "rows"
    return parse.kind(link) == "by" or (parse.kind(link) == "join" and not chosen)


def _groups(parse: Parse, place: int) -> bool:
    """Whether a column of numbers may be broken down by here: something else is measured, and it has few values."""
    others = [one for one in parse.columns("cy") if one != place]
    counted = parse.first("aggregate", tag="count") is not None
    column = parse.column(place)
    return bool(others or counted) and column is not None and column.distinct <= _MOST_GROUPS


def columns_by(parse: Parse, places: list[int], found: list[Measured]) -> tuple[str, ...]:
    made: list[str] = []
    for place in places:
        if place in parse.used:
            continue
        column = parse.column(place)
        assert column is not None
        link = parse.back(place)
        while parse.kind(link) in ("superlative", "number"):
            link = parse.back(link)
        if parse.kind(link) in ("by", "question", "join"):
            parse.use(link, "broken down by")
        parse.use(place, f"column {column.name}")
        made.append(column.name)
    for place in parse.columns("d"):
        column = parse.column(place)
        assert column is not None
        parse.use(place, f"column {column.name}")
        before = [one.words.casefold() for one in parse.fillers if one.end == parse.items[place].first]
        if before and before[0].split()[-1] in ("did", "do", "does", "have", "has", "our") and (made or found):
            # "how many hours did vessels spend"
            continue
        behind = parse.used.get(place + 1)
        if behind is not None and behind.kind == "condition" and parse.kind_of(place - 1) == "arithmetic":
            # "fees of vessels built after 2000": what the condition is of.
            continue
        made.append(column.name)
    for place in parse.columns("t"):
        if not made:
            continue
        parse.use(place, "date")
    return tuple(dict.fromkeys(made))


def labels_by(parse: Parse) -> tuple[str, ...]:
    return labels_at(parse, by_places(parse))


def labels_at(parse: Parse, places: list[int]) -> tuple[str, ...]:
    made = []
    for place in places:
        linked = _answers(parse, parse.back(place), place)
        if place in parse.used or not (parse.code(place) == "d" or (parse.code(place) == "y" and linked)):
            continue
        made.append(taken(parse, place))
    return tuple(made)


def taken(parse: Parse, place: int) -> str:
    """The column at a place as one to break down by, with the word that links it."""
    column = parse.column(place)
    assert column is not None
    unlink(parse, place)
    parse.use(place, f"column {column.name}")
    return column.name


def unlink(parse: Parse, place: int) -> None:
    """Uses the "by", "which" or "and" before a place."""
    link = parse.back(place)
    if parse.kind(link) in ("by", "question", "join"):
        parse.use(link, "broken down by")


def grains(parse: Parse, mean: int | None) -> tuple[str | None, str | None, str | None]:
    """The grain or cycle to break down by, or the grain whose totals are averaged."""
    grain = cycle = per = None
    for place in parse.all_of("cycle"):
        cycle = parse.items[place].tag
        _link(parse, place)
        parse.use(place, f"by {cycle}")
    if take(parse, "trend") is not None and parse.line is not None:
        grain = parse.line.grain.value
    for place in parse.columns("t"):
        column = parse.column(place)
        if column is not None and parse.line is not None and column.name == parse.line.column:
            link = _link(parse, place)
            name = column.name.casefold()
            if name in tuple(Grain) and mean is not None and link in ("per", "each"):
                per = name
            else:
                grain = name if name in tuple(Grain) else "day" if link else grain
            parse.use(place, f"by {per or grain}")
    for place in parse.all_of("grain"):
        tag = parse.items[place].tag
        link = _link(parse, place)
        averaged = mean is not None and link not in ("by", "and") and parse.line is not None
        if averaged:
            per = tag
        else:
            grain = tag
        parse.use(place, f"{'per' if averaged else 'by'} {tag}")
    for place in parse.all_of("question", tag="when"):
        if grain is None and parse.line is not None and place == 0:
            grain = parse.line.grain.value
        parse.use(place, "when")
    if per is not None and mean is not None and mean not in parse.used:
        parse.use(mean, "average of totals")
    return grain, cycle, per


def _link(parse: Parse, place: int) -> str:
    before = parse.back(place)
    while parse.kind(before) in ("superlative", "number"):
        before = parse.back(before)
    if parse.kind(before) in ("by", "question", "join"):
        tag = parse.items[before].tag
        parse.use(before, f"{tag}")
        return tag
    return ""
