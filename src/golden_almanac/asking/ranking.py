"""Orders of a question: the highest, the three lowest, the fastest growing; or, without groups, the highest of all."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from ..aggregation.measure_names import spoken
from ..support.better_directions import better_way
from ..tables import Column, Role
from . import measuring
from .asked import Asked, Measured, Problem
from .clauses import last_year
from .parse import Parse
from .words import fold

#: Groups that are shown where the best of several are asked for.
SEVERAL = 5


_FAST = {"up": "descending", "down": "ascending", "any": "descending", "growth": "descending"}


@dataclass(slots=True)
class Ranked:
    """The order asked for, how many, and the place of the word."""

    order: str | None = None
    top: int | None = None
    place: int | None = None
    pace: str | None = None
    numbered: bool = False
    words: str = ""


def superlatives(parse: Parse, figures: dict[int, tuple[float, str]]) -> Ranked:
    """Words of order with the number beside them; each is used here, and may still make an aggregate."""
    made = Ranked()
    for place in parse.all_of("pace"):
        made.pace = parse.items[place].tag
        made.order = "descending" if made.pace == "fastest" else "ascending"
        parse.use(place, f"order by change in percent, {made.order}")
        made.place, made.words = place, parse.items[place].plain
    for place in parse.all_of("superlative"):
        tag = parse.items[place].tag
        if made.order is None:
            made.order = "descending" if tag == "high" else "ascending"
            made.place, made.words = place, parse.items[place].plain
        parse.use(place, f"order {tag}")
        for beside in (place + 1, place - 1):
            if beside in figures and beside not in parse.used:
                made.top = int(figures[beside][0])
                made.numbered = True
                parse.use(beside, f"top {made.top}")
                break
    if made.order is not None and made.top is None:
        # "the two routes with the highest revenue"
        for place in parse.all_of("number"):
            if parse.code(place + 1) in ("d", "grain", "rows") and figures[place][0] < 1_000:
                made.top = int(figures[place][0])
                made.numbered = True
                parse.use(place, f"top {made.top}")
                break
    return made


def ranked_by_measure(parse: Parse, ranked: Ranked) -> None:
    """ "top 3 routes by revenue": what stands behind "by" is what is ranked by, if it is a figure."""
    if ranked.order is None:
        return
    for place in parse.all_of("by"):
        if parse.items[place].tag != "by":
            continue
        behind = parse.next(place)
        if parse.kind(behind) in ("aggregate", "share"):
            further = parse.next(behind)
            while parse.kind(further) == "aggregate":
                further = parse.next(further)
            if parse.code(further) in ("c", "y", "rows", "d", "k"):
                parse.use(place, "ranked by")
                return
        if parse.code(behind) in ("c", "y") or (parse.kind(behind) == "rows"):
            parse.use(place, "ranked by")
            return


def aggregated_orders(parse: Parse, ranked: Ranked) -> None:
    """ "largest salary by department": of figures that are not added up the largest is that of a row."""
    place = ranked.place
    if place is None or ranked.numbered or ranked.pace or asks_which(parse) or parse.first("by") is None:
        return
    behind = parse.next(place)
    item = parse.at(behind)
    if item is None or parse.code(behind) != "c" or len(item.columns) > 1 or parse.kind(parse.next(behind)) != "by":
        return
    column = parse.known.columns[item.column]
    if parse.tag(parse.next(behind)) == "per" or (
        column.adds_up and not measuring.is_averaged(column, parse.words.averaged)
    ):
        return
    tag = "max" if ranked.order == "descending" else "min"
    parse.items[place] = replace(parse.items[place], kind="aggregate", tag=tag)
    del parse.used[place]
    ranked.order = ranked.place = None


def judged(parse: Parse, ranked: Ranked, columns: Iterable[str]) -> None:
    """The order of words that praise or blame: the best of delays are the least, the slowest takes the longest."""
    if ranked.order is None:
        return
    said = ranked.words.split()
    told = [parse.known.columns[name] for name in columns]
    if set(said) & {"fastest", "quickest", "slowest"} and len(said) == 1:
        if told and all(_takes_time(column) for column in told):
            ranked.pace = None
            ranked.order = "descending" if said == ["slowest"] else "ascending"
        return
    if not set(said) & {"best", "worst"} or not told:
        return
    ways = {better_way((column.name, column.original)) for column in told}
    way = ways.pop() if len(ways) == 1 else None
    if way is None:
        way = "up"
        high = "highest" if "best" in said else "lowest"
        parse.notes.append(f"“{ranked.words}” is taken as the {high}: the table does not say which way is better.")
    ranked.order = "descending" if ("best" in said) == (way == "up") else "ascending"


def _takes_time(column: Column) -> bool:
    return (column.type == "number" and column.unit in ("min", "h", "s", "d")) or (
        column.nature == "duration" and "age" not in fold(spoken(column.name)).split())  # fmt: skip


def with_order(parse: Parse, made: Asked, ranked: Ranked, growth: str | None) -> Asked:
    """How groups are ranked, and how many are asked for."""
    groups = bool(made.by or made.grain or made.cycle)
    if ranked.pace is not None and made.baseline is None:
        made = made.but(period=made.period or last_year(parse), baseline="year-ago",
                        assumed=made.assumed if made.period else (*made.assumed, "period"))  # fmt: skip
    if ranked.pace is not None:
        made = made.but(ranked_by="change_pct")
    order = ranked.order
    if growth in ("down",) and order == "descending":
        order = "ascending"
    if not groups:
        return made.but(ranked_by="value")
    if order is None and growth in ("up", "down") and asks_which(parse):
        order = _FAST[growth]
    if order is None:
        return made.but(ranked_by="value" if made.baseline is None else made.ranked_by)
    top = ranked.top
    if top is None:
        top = 1 if not _asks_several(parse) else SEVERAL
    return made.but(order=order, top=top, ranked_by=made.ranked_by if made.baseline is not None else "value")


def asks_which(parse: Parse) -> bool:
    return any(item.kind == "question" for item in parse.items)


def _asks_several(parse: Parse) -> bool:
    """Whether many are asked for: "which routes", and not "which route"."""
    for place, item in enumerate(parse.items):
        if item.kind == "column" and place in parse.used and parse.used[place].kind == "column":
            code = {parse.known.columns[name].role for name in item.columns}
            if (
                Role.DIMENSION in code
                and item.words.casefold().endswith("s")
                and not item.words.casefold().endswith("ss")
            ):
                name = item.column.casefold().replace("_", " ")
                if not name.endswith(item.words.casefold()):
                    return True
        if item.kind == "grain" and item.plain in ("days", "weeks", "months", "quarters", "years"):
            return True
    return False


def singles(parse: Parse, made: Asked, ranked: Ranked) -> Asked:
    """ "highest delay": without groups, a superlative is an aggregate of the column."""
    if ranked.order is None or made.by or made.grain or made.cycle or made.baseline is not None:
        return made
    if len(made.measures) != 1 or made.measures[0].column is None or made.measures[0].over is not None:
        raise Problem("Highest of what?", "no groups")
    one = made.measures[0]
    column = parse.known.columns[one.column or ""]
    if column.type != "number" or one.said or ranked.numbered:
        raise Problem(
            f"The {'highest' if ranked.order == 'descending' else 'lowest'} of what? Name what it is told by.",
            "no groups",
        )
    return made.but(
        measures=(Measured(aggregate="max" if ranked.order == "descending" else "min", column=column.name, said=True),)
    )
