"""What follows a question: what it changes of what was asked before, everything else carries over."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from ..tables import Period
from . import clauses, grouping, measuring, ranking, restrictions, total_questions
from .asked import Asked, Measured, Problem
from .parse import Parse
from .spans import iso

#: Words that a follow-up begins with.
STARTS = frozenset(
    "and but only also now split as by for without why same top bottom make with excluding except not instead compared "
    "versus vs against in since before after until on at per what how just or until again keep drop the over last this"
    .split()
)  # fmt: skip
#: Of these, what follows is added to what it is broken down by.
_ADDED = frozenset(("also", "split", "further", "additionally"))


def followed(parse: Parse, before: Asked, low: list[str]) -> Asked:
    """What is asked now. Raises Problem where words are left, or nothing is changed."""
    if parse.line is None and parse.first("span", "grain", "cycle") is not None:
        raise Problem("The table has no dates.", "no dates")
    chart = clauses.chart_of(parse)
    figures = restrictions.numbers_with_units(parse)
    made = before
    if chart is not None:
        made = made.but(chart=chart)
    made = _measured_otherwise(parse, made)
    made = _restricted(parse, made, figures)
    made = _ordered(parse, made, figures)
    made = _broken_down(parse, made, added=bool(_ADDED & set(low[:3])))
    made = _measures(parse, made)
    why = parse.all_of("why")
    if why:
        for place in why:
            parse.use(place, "why")
        for place in parse.all_of("change", "pace", "superlative"):
            parse.use(place, "change")
        made = _why(parse, made)
    for kind, intent in (("trend", "trend"), ("season", "season"), ("unusual", "unusual"), ("drivers", "drivers")):
        for place in parse.all_of(kind):
            parse.use(place, intent)
            made = made.but(intent=intent, by=(), order=None, top=None)
    clauses.joints(parse)
    left = clauses.left_over(parse)
    if left:
        raise Problem(clauses.not_read(left), "unread", {"words": list(left)}, unread=left)
    if made == before:
        raise Problem("Nothing of the question before is changed by this.", "no change")
    return made


def _why(parse: Parse, made: Asked) -> Asked:
    if parse.line is None:
        raise Problem("The table has no dates, so there is no change to explain.", "no dates")
    measures = [one for one in made.measures if not one.condition][:1] or [measuring.lead(parse.table)]
    one = measures[0]
    if one.aggregate in ("max", "min", "median", "distinct"):
        one = Measured(aggregate="", column=one.column)
    baseline = made.baseline if made.baseline not in ("year-ago", "previous") else None
    return Asked(intent="why", measures=(one,), filters=made.filters, period=made.period, baseline=baseline)


def _measured_otherwise(parse: Parse, made: Asked) -> Asked:
    """As a share, as a running total, on average."""
    for place in parse.all_of("share"):
        if parse.columns("y"):
            break
        parse.use(place, "share")
        if not (made.by or made.grain or made.cycle):
            raise Problem("A share is of parts; say what to break it down by.", "no groups")
        made = made.but(share=True, running=False)
    for place in parse.all_of("running"):
        parse.use(place, "running total")
        made = made.but(running=True, share=False, grain=made.grain or "month")
    return made


def _restricted(parse: Parse, made: Asked, figures: Mapping[int, tuple[float, str]]) -> Asked:
    """Other rows: labels in place of others of their column, a span in place of the one before."""
    comparing = parse.all_of("comparing")
    filters = list(made.filters)
    for condition, _column, _sign, _value, _before in restrictions.comparisons(parse, dict(figures)):
        filters = [one for one in filters if one.column != condition.column or one.labels] + [condition]
    for one in restrictions.labels(parse):
        if comparing:
            kept = [other for other in filters if other.column == one.column and other.labels and not other.negated]
            if kept:
                labels = tuple(dict.fromkeys((*kept[0].labels, *one.labels)))
                one = restrictions.label_filter(parse, one.column, list(labels), False)
                made = made.but(by=(one.column,))
        filters = [other for other in filters if other.column != one.column or other.negated != one.negated] + [one]
    periods, again, _ = restrictions.spans(parse)
    clauses.check_spans(parse, periods)
    for one in again:
        filters = [other for other in filters if other.column != one.column] + [one]
    for place in parse.columns("y") if parse.first("share") is None else ():
        if parse.kind(parse.back(place)) in ("by", "aggregate", "share"):
            continue
        one = restrictions.yes_or_no(parse, place)
        filters = [other for other in filters if other.column != one.column] + [one]
    made = made.but(filters=tuple(filters))
    if periods:
        made = _in_other_span(parse, made, periods, bool(comparing))
    for place in parse.all_of("year_before"):
        parse.use(place, "the year before")
        if parse.line is None or made.period is None:
            raise Problem("Set against the year before of which span?", "two spans")
        made = made.but(baseline="year-ago")
    for place in comparing:
        if place not in parse.used:
            parse.use(place, "set against")
    return made


def _in_other_span(parse: Parse, made: Asked, periods: list[Period], comparing: bool) -> Asked:
    spans = [iso(one) for one in periods]
    if made.intent not in ("total", "why"):
        dated = parse.line.column if parse.line is not None else ""
        kept = tuple(one for one in made.filters if one.column != dated)
        return made.but(filters=(*kept, restrictions.in_period(parse, periods[0])))
    if len(spans) > 2:
        raise Problem("More than two spans are named.", "two spans")
    if comparing and len(spans) == 1:
        if made.period is None:
            raise Problem("Set against which span?", "two spans")
        return made.but(baseline=spans[0])
    if len(spans) == 2:
        older, newer = sorted(spans)
        return made.but(period=newer, baseline=older)
    baseline = "year-ago" if made.baseline is not None else None
    return made.but(period=spans[0], baseline=baseline)


def _ordered(parse: Parse, made: Asked, figures: Mapping[int, tuple[float, str]]) -> Asked:
    ranked = ranking.superlatives(parse, dict(figures))
    if ranked.order is None:
        for place in parse.all_of("number"):
            if made.order is not None and place in figures:
                # "and the top 5" lost its word: a number alone is how many.
                parse.use(place, f"top {int(figures[place][0])}")
                made = made.but(top=int(figures[place][0]))
        return made
    if not (made.by or made.grain or made.cycle or parse.columns("d") or parse.first("grain") is not None):
        raise Problem("The highest of what? Say what to break it down by.", "no groups")
    ranking.judged(parse, ranked, [one.column for one in made.measures if one.column])
    top = ranked.top or made.top or 5
    return made.but(order=ranked.order, top=top, ranked_by="change_pct" if ranked.pace else made.ranked_by)


def _broken_down(parse: Parse, made: Asked, *, added: bool) -> Asked:
    by = [grouping.taken(parse, place) for place in parse.columns("d")]
    grain, cycle = None, None
    for place in parse.all_of("grain", "cycle"):
        kind, tag = parse.items[place].kind, parse.items[place].tag
        grouping.unlink(parse, place)
        parse.use(place, f"by {tag}")
        grain, cycle = (tag, cycle) if kind == "grain" else (grain, tag)
    for place in parse.columns("t"):
        parse.use(place, "by date")
        grain = grain or "month"
    if not by and grain is None and cycle is None:
        return made
    if made.intent == "why":
        return made.but(by=tuple(by) or made.by)
    if added:
        return made.but(by=tuple(dict.fromkeys((*made.by, *by))), grain=grain or made.grain, cycle=cycle or made.cycle)
    ranked = made.order is not None and made.top is not None
    made = made.but(by=tuple(by), grain=grain, cycle=cycle, running=made.running and grain is not None)
    # A filter on what it is now broken down by would leave one group.
    kept = tuple(one for one in made.filters if not (one.column in by and len(one.labels) == 1 and not one.negated))
    return made.but(filters=kept, top=made.top if ranked else None)


def _measures(parse: Parse, made: Asked) -> Asked:
    rate = total_questions.rate_of(parse, clauses.Parts([], [], [], [], [])) if parse.columns("y") else None
    found = [rate] if rate is not None else []
    whole = measuring.ratio(parse)
    found += [whole] if whole is not None else []
    found += measuring.dimension_measures(parse, lambda place: True)
    found += measuring.measures(parse)
    counted = clauses.rows_counted(parse) if not found else None
    if counted is not None:
        found.append(counted)
    for place in parse.all_of("aggregate"):
        tag = parse.items[place].tag
        one = made.measures[0] if made.measures else None
        if one is not None and one.column is not None and not found:
            parse.use(place, f"aggregate {tag}")
            column = parse.known.columns[one.column]
            if one.over is not None:
                raise Problem("A ratio has no other aggregate.", "no change")
            made = made.but(measures=(replace(one, aggregate=measuring.fitting(tag, column, parse), said=True),))
    if not found:
        return made
    intent = (
        made.intent
        if made.intent in ("total", "why", "trend", "season", "unusual", "drivers", "difference")
        else "total"
    )
    return made.but(measures=tuple(found), intent=intent)


def carried(before: Asked, now: Asked) -> tuple[str, ...]:
    """What carries over from the question before: measures, groups, conditions, the span."""
    made = []
    if before.measures and before.measures == now.measures:
        made.append("measure")
    if before.by and before.by == now.by:
        made.append("groups")
    if before.filters and set(before.filters) <= set(now.filters):
        made.append("conditions")
    if before.period and before.period == now.period:
        made.append("span")
    return tuple(made)
