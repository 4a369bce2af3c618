"""Questions for figures: sums, rates, shares, growth; of which rows, over which spans, in which order."""

from __future__ import annotations

from collections.abc import Sequence

from ..aggregation.measure_names import spoken
from ..tables import Column
from ..tables.meaning.name_words import SHARES, tells, words
from . import measuring, restrictions
from .asked import Asked, Filter, Measured, Problem
from .clauses import Parts, last_year, pair_of, refuse_empty, rows_counted, take
from .grouping import by_places, columns_by, grains
from .parse import Parse
from .ranking import Ranked, aggregated_orders, judged, ranked_by_measure, singles, superlatives, with_order
from .row_questions import listed_rows
from .spans import iso


def total(parse: Parse, parts: Parts, figures: dict[int, tuple[float, str]], intent: str) -> Asked:
    listed = listed_rows(parse, parts, figures, intent)
    if listed is not None:
        return listed
    running = take(parse, "running") is not None
    growth = growth_of(parse)
    compare = take(parse, "comparing") is not None
    year_before = take(parse, "year_before") is not None
    ranked = superlatives(parse, figures)
    whole = measuring.ratio(parse)
    found: list[Measured] = [] if whole is None else [whole]
    ranked_by_measure(parse, ranked)
    rate = rate_of(parse, parts)
    if rate is not None:
        found.append(rate)
    found += measuring.dimension_measures(parse, lambda place: parse.tag(parse.back(parse.back(place))) != "high")
    places = by_places(parse)
    flags = _flag_filters(parse, places) if rate is None else []
    parts.filters += flags
    mean = next((place for place in parse.all_of("aggregate") if parse.items[place].tag == "mean"), None)
    grain, cycle, per = grains(parse, mean)
    aggregated_orders(parse, ranked)
    found += measuring.measures(parse, places)
    found += [one for one in parts.measured if one.column not in {other.column for other in found}]
    counted = rows_counted(parse) if not found else None
    if counted is None and found and parse.first("aggregate") is not None:
        _loose_aggregate(parse, found)
    by = columns_by(parse, places, found)
    if counted is not None and (
        counted.said or by or grain or cycle or flags or parts.filters or parts.periods or ranked.order
    ):
        found.append(counted)
    elif counted is not None:
        raise Problem("What is asked of the rows?", "no measure")
    if not found and flags:
        found.append(Measured(aggregate="count"))
    shared = list(parse.all_of("share"))
    share = parse.as_share
    if shared and found and rate is None:
        share = True
        for place in shared:
            parse.use(place, "share")
    assumed: list[str] = []
    if not found:
        known = bool(by or grain or cycle or growth or parts.thresholds)
        found.append(
            _unsaid(parse, parts, ranked, known=known, moved=growth is not None, listed=bool(by) and not compare)
        )
        assumed.append("measure")
    if len({(one.column, one.aggregate, one.over) for one in found}) < len(found):
        raise Problem("The same measure is named twice.", "twice")
    made = Asked(
        measures=tuple(found), by=by, grain=grain, cycle=cycle, per=per, filters=tuple(parts.filters), running=running,
        share=share, assumed=tuple(assumed),
    )  # fmt: skip
    if year_before:
        made = _against_year_before(parse, made, parts, growth)
    else:
        made = _with_periods(parse, made, parts, growth, compare)
    ranked_by = [one.column for one in found if one.column] or [one.column for one in flags]
    judged(parse, ranked, ranked_by)
    made = with_order(parse, made, ranked, growth)
    for _, sign, value in parts.thresholds:
        made = made.but(above=value) if sign.startswith(">") else made.but(below=value)
    if compare and not made.by and made.baseline is None:
        made = _compared_labels(made)
    if made.running and made.grain is None:
        made = made.but(grain="month", assumed=(*made.assumed, "grain"))
    if share and not made.by and made.grain is None and made.cycle is None:
        made = _share_of_label(made)
    return singles(parse, made, ranked)


def _unsaid(parse: Parse, parts: Parts, ranked: Ranked, *, known: bool, moved: bool, listed: bool) -> Measured:
    """What is measured where no figure was named: what an order hints at, the leading figure of a ranking or a change,
    the number of rows of labels alone. Raises Problem where there is nothing to go by."""
    if not known or any(item.kind == "unread" for place, item in enumerate(parse.items) if place not in parse.used):
        refuse_empty(parse)
    if ranked.order is None and not moved and not parts.thresholds and not parts.periods:
        if not listed:
            refuse_empty(parse)
        return Measured(aggregate="count")
    if any(word in parse.words.counted for word in ranked.words.split()):
        return Measured(aggregate="count")
    hint = measuring.hinted(ranked.words, parse) if ranked.words else None
    if hint is None:
        return measuring.assumed(parse.table)
    priced = listed and ranked.words.split()[-1] in parse.words.each
    return Measured(aggregate="mean" if priced else "", column=hint.name)


def growth_of(parse: Parse) -> str | None:
    """Which way of change is asked for: up, down, any or growth (in percent)."""
    found = None
    for place in parse.all_of("change"):
        tag = parse.items[place].tag
        found = tag if found is None or tag == "growth" else found
        parse.use(place, f"change {tag}")
    return found


def rate_of(parse: Parse, parts: Parts) -> Measured | None:
    """ "cancellation rate", "share of sailings on time", "percent of respondents with a score of at least 8"."""
    places = parse.all_of("share")
    if not places:
        return None
    measuring.named_in_parts(parse)
    flags = parse.columns("y")
    if flags:
        place = flags[-1] if len(flags) == 1 else flags[0]
        column = parse.column(place)
        assert column is not None
        before = parse.back(place)
        negated = parse.kind(before) == "negation"
        for one in places:
            parse.use(one, "rate")
        parse.use(place, f"column {column.name}")
        for one in parse.all_of("aggregate"):
            if parse.items[one].tag in ("mean", "total"):
                parse.use(one, "rate")
        for one in parse.all_of("rows"):
            parse.use(one, "rows")
        if negated:
            parse.use(before, "not")
            return Measured(aggregate="rate", condition=_negated(parse, column), said=True)
        return Measured(aggregate="rate", column=column.name, said=True)
    if parse.columns("c"):
        return None
    rows = parse.all_of("rows")
    conditions = [one for one in parts.filters if not one.labels]
    chosen = conditions[0] if conditions else parts.filters[0] if len(parts.filters) == 1 else None
    grouped = any(parse.kind(one) == "by" for one in range(len(parse.items)))
    if chosen is None and len(parts.filters) > 1:
        raise Problem("Of which of the conditions is the share asked?", "which share")
    if chosen is None or (not rows and not conditions and not grouped):
        if rows and (grouped or parse.columns("d")):
            # "share of sailings by channel"
            return None
        if chosen is None:
            return None
    parts.filters.remove(chosen)
    for one in (*places, *rows):
        parse.use(one, "share" if one in places else "rows")
    called = f"share with {chosen.words}".replace("_", " ").replace('"', "")
    return Measured(aggregate="rate", condition=chosen.sql, said=True, name=called)


def _negated(parse: Parse, column: Column) -> str:
    name = measuring.column_sql(column.name)
    return f"{name} = 0" if parse.table.column(column.name).type == "number" else f"NOT {name}"


def _flag_filters(parse: Parse, groups: Sequence[int]) -> list[Filter]:
    """Columns of yes and no that are conditions: all but those that are measured or broken down by."""
    made = []
    for place in parse.columns("y"):
        before = parse.back(place)
        averaged = parse.kind(before) == "aggregate" and parse.tag(before) == "mean"
        if place in groups or averaged or parse.kind(before) == "by" or (groups and _is_rate(parse, place)):
            continue
        made.append(restrictions.yes_or_no(parse, place))
    return made


def _is_rate(parse: Parse, place: int) -> bool:
    """Whether a column of yes and no is named like a rate: churn by area is how much of each area churned."""
    column = parse.column(place)
    counted = parse.kind(parse.next(place)) == "rows" or parse.first("aggregate", tag="count") is not None
    return column is not None and not counted and tells(words(column.name), SHARES) is not None


def _loose_aggregate(parse: Parse, found: list[Measured]) -> None:
    """An aggregate that stands apart from its column: "salary of women, on average"."""
    for place in parse.all_of("aggregate"):
        tag = parse.items[place].tag
        if len(found) == 1 and not found[0].said and tag in ("mean", "total", "median") and found[0].column:
            column = parse.known.columns[found[0].column]
            if column.type == "number":
                parse.use(place, f"aggregate {tag}")
                found[0] = Measured(aggregate=measuring.fitting(tag, column, parse), column=column.name, said=True)
        elif tag == "total" or (tag == "distinct" and found[0].aggregate == "distinct"):
            parse.use(place, f"aggregate {tag}")


def _with_periods(parse: Parse, made: Asked, parts: Parts, growth: str | None, compare: bool) -> Asked:
    """The span, or two of them set against each other."""
    pairs = [span.pair for span in parts.said if span.pair is not None]
    if growth is not None:
        period, baseline = pair_of(parts)
        if period is None:
            if parse.line is None:
                raise Problem("The table has no dates.", "no dates")
            period = last_year(parse)
            made = made.but(assumed=(*made.assumed, "period"))
        if made.grain is not None and not pairs and baseline is None and not made.by:
            # "growth by month": the figures over time, each beside the one before, are what a line shows.
            return made.but(period=None if not parts.periods else period)
        ranked = "change_pct" if growth == "growth" else "change"
        return made.but(period=period, baseline=baseline or "year-ago", ranked_by=ranked)
    if (len(parts.periods) == 2 or (compare and pairs)) and (compare or made.grain is None):
        if compare:
            period, baseline = pair_of(parts)
            return made.but(period=period, baseline=baseline)
        conditions = " OR ".join(restrictions.in_period(parse, one).sql for one in parts.periods)
        first = restrictions.in_period(parse, parts.periods[0])
        words = " or ".join(iso(one) for one in parts.periods)
        return made.but(filters=(*made.filters, Filter(sql=conditions, column=first.column, words=words)))
    if len(parts.periods) > 1:
        raise Problem("More than one span is named, and it is not clear how they go together.", "two spans")
    return made.but(period=iso(parts.periods[0])) if parts.periods else made


def _against_year_before(parse: Parse, made: Asked, parts: Parts, growth: str | None) -> Asked:
    """ "against the same month a year before"."""
    if parse.line is None:
        raise Problem("The table has no dates.", "no dates")
    if len(parts.periods) > 1:
        raise Problem("More than one span is named, and it is not clear how they go together.", "two spans")
    assumed = made.assumed if parts.periods else (*made.assumed, "period")
    period = iso(parts.periods[0]) if parts.periods else last_year(parse)
    ranked = "change_pct" if growth == "growth" else "change"
    return made.but(period=period, baseline="year-ago", ranked_by=ranked, assumed=assumed)


def _compared_labels(made: Asked) -> Asked:
    """ "compare Web and Agents on revenue": the labels side by side."""
    labelled = [one for one in made.filters if len(one.labels) > 1 and not one.negated]
    return made.but(by=(labelled[0].column,)) if labelled else made


def _share_of_label(made: Asked) -> Asked:
    """ "Outer Bar's share of revenue": of the whole, the part of some labels."""
    labelled = [one for one in made.filters if one.labels and not one.negated]
    if not labelled:
        raise Problem("Whose share is asked for?", "which share")
    chosen = labelled[0]
    rest = tuple(one for one in made.filters if one is not chosen)
    measure = made.measures[0]
    called = f"share of {spoken(measure.column or 'rows')} in {' and '.join(chosen.labels)}".replace('"', "")
    part = Measured(aggregate=measure.aggregate, column=measure.column, condition=chosen.sql, said=True, name=called)
    return made.but(measures=(part,), filters=rest, share=False)
