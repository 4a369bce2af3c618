"""Questions for rows as they stand."""

from __future__ import annotations

from . import measuring, restrictions
from .asked import Asked, Filter, Problem
from .clauses import Parts, conditions
from .parse import Parse
from .ranking import SEVERAL, judged, superlatives


def _best_of(parse: Parse, place: int, figures: dict[int, tuple[float, str]]) -> bool:
    """ "the 3 most expensive moorings", "the 10 most delayed sailings"."""
    before = parse.back(place)
    if parse.code(before) == "c":
        before = parse.back(before)
    return parse.kind(before) == "superlative" and parse.back(before) in figures


def _is_single(parse: Parse, rows: list[int]) -> bool:
    """ "the heaviest shipment": one row, by what the order hints at."""
    if len(rows) != 1 or parse.columns("cyd") or parse.first("grain", "cycle", "change", "share") is not None:
        return False
    before = parse.at(parse.back(rows[0]))
    singular_said = not parse.items[rows[0]].plain.endswith("s")
    return singular_said and before is not None and before.kind == "superlative" and (
        measuring.hinted(before.plain, parse) is not None)  # fmt: skip


def listed_rows(parse: Parse, parts: Parts, figures: dict[int, tuple[float, str]], intent: str) -> Asked | None:
    """Rows themselves: "list the sailings …", "which sailings were …", "the ten sailings with the longest delays"."""
    rows = parse.all_of("rows")
    which = any(parse.kind(parse.back(place)) == "question" for place in rows)
    numbered = [
        place for place in rows
        if any(one in figures and one not in parse.used for one in (parse.back(place),))
        or _best_of(parse, place, figures)
    ]  # fmt: skip
    single = not which and not numbered and _is_single(parse, rows)
    if intent != "rows" and not which and not numbered and not single:
        return None
    if intent != "rows" and (parse.first("aggregate") is not None or (parse.first("by") is not None and not numbered)):
        return None
    top = None
    for place in numbered:
        before = parse.back(place)
        if before in figures:
            top = int(figures[before][0])
            parse.use(before, f"top {top}")
    ranked = superlatives(parse, figures)
    if top is None:
        top = ranked.top
    for place in parse.all_of("by"):
        if ranked.order is not None:
            parse.use(place, "ordered by")
    order = None
    columns = parse.columns("c")
    if ranked.order is not None:
        hint = measuring.hinted(ranked.words, parse) if not columns else None
        if len(columns) != 1 and hint is None:
            raise Problem("In the order of which column?", "which measure")
        column = parse.column(columns[0]) if columns else hint
        assert column is not None
        judged(parse, ranked, [column.name])
        if columns:
            parse.use(columns[0], f"column {column.name}")
        order = column.name
        if (which or single) and top is None:
            top = 1 if not parse.items[rows[0]].words.casefold().endswith("s") else SEVERAL
    for place in rows:
        parse.use(place, "rows")
    for place in parse.all_of("question"):
        parse.use(place, "question word")
    parts.filters += _flags(parse)
    filters = conditions(parse, parts)
    if not filters and order is None and intent == "rows" and not rows:
        return None
    descending = "descending" if ranked.order == "descending" else None
    return Asked(intent="rows", filters=filters, row_order=order, order=descending, top=top)


def _flags(parse: Parse) -> list[Filter]:
    return [restrictions.yes_or_no(parse, place) for place in parse.columns("y")]
