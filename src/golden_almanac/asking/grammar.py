"""The places of a question put together: what it asks, every place used once and for something."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ..aggregation.measure_names import spoken
from ..tables import Grain, Period, Role
from . import measuring, restrictions
from .asked import Asked, Filter, Measured, Problem
from .parse import Parse
from .spans import Span, iso

#: Groups that are shown where the best of several are asked for.
_SEVERAL = 5
#: Labels of a column that is broken down by because a question counts them out; numbers that may be labels.
_MOST_GROUPS = 60
_INTENTS = ("why", "drivers", "relation", "difference", "season", "trend", "unusual", "describe", "list")
_FAST = {"up": "descending", "down": "ascending", "any": "descending", "growth": "descending"}


@dataclass(slots=True)
class Parts:
    """What was found before the intent was known."""

    filters: list[Filter]
    thresholds: list[tuple[Filter, str, float]]
    periods: list[Period]
    said: list[Span]
    measured: list[Measured]


def asked_of(parse: Parse) -> Asked:
    """What the question asks. Raises Problem where it cannot be said for sure."""
    _check_repeated(parse)
    _check_dates(parse)
    chart = chart_of(parse)
    figures = restrictions.numbers_with_units(parse)
    subject = _subject(parse)
    compared = restrictions.comparisons(parse, figures)
    parts = Parts([], [], [], [], [])
    groups = subject in ("d", "grain", "t") and parse.first("rows") is None
    aggregates = {place: parse.tag(parse.back(place)) for place in parse.columns("c")
                  if parse.kind(parse.back(place)) == "aggregate"}  # fmt: skip
    # Where something else is measured, a comparison is one of rows.
    counted = any(parse.items[place].tag in ("count", "distinct") for place in parse.all_of("aggregate"))
    groups = groups and not counted and not parse.columns("cy")
    for condition, column, sign, value, before in compared:
        if (
            groups
            and column.role is Role.MEASURE
            and sign in (">", ">=", "<", "<=")
            and (before or subject in ("grain", "t"))
        ):
            place = next((one for one in aggregates if column.name in parse.items[one].columns), None)
            said = "" if place is None else aggregates[place]
            if place is not None and parse.kind(parse.back(place)) == "aggregate":
                parse.use(parse.back(place), f"aggregate {said}")
            parts.thresholds.append((condition, sign, value))
            parts.measured.append(Measured(aggregate=said, column=column.name, said=bool(said)))
        else:
            parts.filters.append(condition)
    parts.filters += restrictions.labels(parse)
    parts.periods, again, parts.said = restrictions.spans(parse)
    parts.filters += again
    check_spans(parse, parts.periods)
    intent = _intent(parse)
    reader = {
        "why": _why, "drivers": _drivers, "relation": _relation, "difference": _difference, "season": _scan,
        "trend": _scan, "unusual": _scan, "describe": _scan,
    }.get(intent)  # fmt: skip
    made = reader(parse, parts, intent) if reader is not None else _total(parse, parts, figures, intent)
    made = made.but(chart=chart if made.chart is None else made.chart)
    joints(parse)
    left = left_over(parse)
    if left:
        raise Problem(not_read(left), "unread", {"words": list(left)}, unread=left)
    return made


def left_over(parse: Parse) -> tuple[str, ...]:
    """The words that nothing was made of: those that nobody knows, if there are such, else those that fit nowhere."""
    places = parse.unread()
    unknown = [place for place in places if parse.items[place].kind == "unread"]
    return tuple(parse.items[place].words for place in unknown or places)


def not_read(words: tuple[str, ...]) -> str:
    shown = ", ".join(f"“{word}”" for word in words[:6])
    return f"Nothing in the table is known as {shown}." if len(words) == 1 else f"These words are not read: {shown}."


def joints(parse: Parse) -> None:
    """Small words that only hold others together."""
    for place in parse.all_of("join"):
        beside = [one for one in (place - 1, place + 1) if 0 <= one < len(parse.items)]
        if all(one in parse.used for one in beside) and beside:
            parse.use(place, "and")
    for place in parse.all_of("arithmetic"):
        if parse.items[place].tag in ("to", "of"):
            parse.use(place, "to" if parse.items[place].tag == "to" else "of")
    for place in parse.all_of("compare_with"):
        # "from Skerry Haven": a preposition like others.
        if parse.items[place].tag == "between" and parse.items[place].plain in ("from", "between"):
            parse.use(place, "of")
        elif parse.items[place].plain == "over" and (place + 1) in parse.used:
            parse.use(place, "over")
    for place in parse.all_of("by"):
        if parse.tag(parse.next(place)) == "between" or parse.items[place].plain in (
            "a",
            "an",
            "along",
            "across",
            "by the",
            "all the",
            "for all",
            "in all the",
            "the different",
        ):
            parse.use(place, "of")
    for place in parse.all_of("question"):
        parse.use(place, "question word")
    for place in parse.all_of("rows"):
        parse.use(place, "rows")
    for place in parse.all_of("aggregate", tag="total"):
        parse.use(place, "total")


def _check_repeated(parse: Parse) -> None:
    """Somebody who says a word three times over asks nothing."""
    said = [item.words.casefold() for item in parse.items]
    if len(said) > 2 and len(set(said)) == 1:
        raise Problem("There is nothing in the question to answer.", "empty")


def _check_dates(parse: Parse) -> None:
    if parse.line is not None:
        return
    for place in parse.free("grain", "cycle", "season", "change", "why", "running", "trend", "span"):
        item = parse.items[place]
        if item.kind == "grain" and item.plain in ("years", "days", "date", "dates"):
            continue
        raise Problem(
            f"The table has no dates, so nothing can be told of “{item.words}”.", "no dates", {"words": item.words},
            unread=(item.words,),
        )  # fmt: skip


def check_spans(parse: Parse, periods: list[Period]) -> None:
    line = parse.line
    if line is None:
        return
    for one in periods:
        if one.end < line.first_day or one.start > line.last_day:
            raise Problem(
                f"{iso(one)} lies outside the data, which run from {line.first_day} to {line.last_day}.",
                "outside", {"period": iso(one), "first": str(line.first_day), "last": str(line.last_day)},
            )  # fmt: skip


def chart_of(parse: Parse) -> str | None:
    made = None
    for place in parse.all_of("chart"):
        tag = parse.items[place].tag
        made = tag if made in (None, "any") else made
        parse.use(place, f"chart {tag}")
    return made


def _subject(parse: Parse) -> str:
    """What the question is about: d of labels, rows of rows, c of figures."""
    for place in range(len(parse.items)):
        code = parse.code(place)
        if code in ("d", "rows", "c", "y", "t", "label", "grain"):
            counted = parse.kind(parse.back(place)) == "aggregate"
            return "rows" if code == "d" and counted else code
    return ""


def _intent(parse: Parse) -> str:
    places = [place for place in range(len(parse.items)) if parse.kind(place) in _INTENTS]
    if parse.first("comparing") is not None and not places:
        return _comparing(parse)
    if not places:
        return "total"
    kinds = {parse.items[place].kind for place in places}
    for name in _INTENTS:
        if name in kinds:
            for place in places:
                if parse.items[place].kind == name and place not in parse.used:
                    parse.use(place, name)
            return "rows" if name == "list" else name
    return "total"


def _comparing(parse: Parse) -> str:
    return "total"


# --- measures that an outcome has ----------------------------------------------------------------------


def _outcome(parse: Parse, what: str) -> Measured:
    found = measuring.measures(parse)
    if not found:
        raise Problem(f"Which column is {what}?", "no outcome")
    return found[0]


def _conditions(parse: Parse, parts: Parts) -> tuple[Filter, ...]:
    """All conditions on rows, the spans of time among them, for calls that take no period."""
    parts.filters += [one[0] for one in parts.thresholds]
    if len(parts.periods) > 1:
        raise Problem("Two spans are named, and it is not clear how they go together.", "two spans")
    return (*parts.filters, *(restrictions.in_period(parse, one) for one in parts.periods))


def _flags(parse: Parse) -> list[Filter]:
    return [restrictions.yes_or_no(parse, place) for place in parse.columns("y")]


def _aside(parse: Parse, *kinds: str) -> None:
    """Words that an intent implies: "why did … rise", "differ on average"."""
    for place in parse.all_of(*kinds):
        parse.use(place, parse.items[place].tag)


def _why(parse: Parse, parts: Parts, intent: str) -> Asked:
    for place in parse.all_of("change", "pace", "trend"):
        parse.use(place, f"change {parse.items[place].tag}")
    for place in parse.all_of("negation"):
        if parse.items[place].plain in ("not", "didnt", "doesnt"):
            parse.use(place, "not")
    for place in parse.all_of("superlative"):
        parse.use(place, parse.items[place].tag)
    _aside(parse, "comparing")
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
    period, baseline = _pair(parse, parts, chronological=True)
    by = _by(parse, {one.column for one in found if one.column})
    _grain_aside(parse)
    return Asked(
        intent="why", measures=(found[0],), by=by, filters=tuple(parts.filters), period=period, baseline=baseline,
        assumed=assumed,
    )  # fmt: skip


def _grain_aside(parse: Parse) -> None:
    for place in parse.all_of("grain"):
        parse.use(place, f"by {parse.items[place].tag}")


def rows_counted(parse: Parse) -> Measured | None:
    """ "how many", "number of sailings"."""
    rows = parse.all_of("rows")
    counts = [place for place in parse.all_of("aggregate") if parse.items[place].tag == "count"]
    if not rows and not counts:
        return None
    for place in (*counts, *rows):
        parse.use(place, "number of rows" if place in counts else "rows")
    return Measured(aggregate="count", said=bool(counts))


def _pair(parse: Parse, parts: Parts, *, chronological: bool) -> tuple[str | None, str | None]:
    """A period and what it is set against, from the spans that were said."""
    pairs = [span.pair for span in parts.said if span.pair is not None]
    if pairs and len(parts.periods) == 1:
        first, second = pairs[0]
        if first.overlaps(second):
            raise Problem("The two spans overlap.", "overlap")
        older, newer = sorted((first, second), key=lambda one: str(one.start))
        return iso(newer), iso(older)
    if len(parts.periods) == 2:
        older, newer = sorted(parts.periods, key=lambda one: str(one.start))
        if older.overlaps(newer):
            raise Problem("The two spans overlap.", "overlap")
        return iso(newer), iso(older)
    if len(parts.periods) > 2:
        raise Problem("More than two spans are named.", "two spans")
    return (iso(parts.periods[0]), None) if parts.periods else (None, None)


def _drivers(parse: Parse, parts: Parts, intent: str) -> Asked:
    _aside(parse, "share", "aggregate", "superlative", "change", "comparing", "relation")
    found = _outcome_only(parse, "what is to be explained")
    return Asked(intent="drivers", measures=(found[0],), filters=_conditions(parse, parts), by=tuple(
        one.column for one in found[1:] if one.column))  # fmt: skip


def _outcome_only(parse: Parse, what: str) -> list[Measured]:
    found = measuring.measures(parse)
    if not found:
        raise Problem(f"Which column is {what}?", "no outcome")
    return found


def _relation(parse: Parse, parts: Parts, intent: str) -> Asked:
    """Two columns of numbers; or one and labels, which are compared."""
    _aside(parse, "aggregate", "comparing", "change")
    measuring._narrow(parse)
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
    filters = _conditions(parse, parts)
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


def _difference(parse: Parse, parts: Parts, intent: str) -> Asked:
    _aside(parse, "aggregate", "comparing", "share")
    by = list(_by(parse, set()))
    for place in parse.columns("d"):
        column = parse.column(place)
        assert column is not None
        parse.use(place, f"column {column.name}")
        by.append(column.name)
    if not by and parse.columns("c") and len(parse.columns("y")) == 1:
        # "does the fee differ by night": yes and no are two groups.
        place = parse.columns("y")[0]
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
    return Asked(intent="difference", measures=(found[0],), by=(by[0],), filters=_conditions(parse, parts))


def _scan(parse: Parse, parts: Parts, intent: str) -> Asked:
    _aside(
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
    by = _by(parse, {one.column for one in found if one.column})
    for place in parse.columns("d"):
        column = parse.column(place)
        assert column is not None
        parse.use(place, f"column {column.name}")
        by = (*by, column.name)
    grains = [parse.items[place].tag for place in parse.all_of("grain")]
    _grain_aside(parse)
    return Asked(
        intent=intent, measures=tuple(found), by=by, filters=_conditions(parse, parts),
        grain=grains[0] if grains and intent == "trend" else None,
    )  # fmt: skip


# --- totals --------------------------------------------------------------------------------------------


def _total(parse: Parse, parts: Parts, figures: dict[int, tuple[float, str]], intent: str) -> Asked:
    listed = _listed_rows(parse, parts, figures, intent)
    if listed is not None:
        return listed
    running = _take(parse, "running") is not None
    growth = _growth(parse)
    compare = _take(parse, "comparing") is not None
    year_before = _take(parse, "year_before") is not None
    ranked = superlatives(parse, figures)
    whole = measuring.ratio(parse)
    found: list[Measured] = [] if whole is None else [whole]
    ranking_by = _ranked_by_measure(parse, ranked)
    rate = rate_of(parse, parts)
    if rate is not None:
        found.append(rate)
    found += measuring.dimension_measures(parse, lambda place: parse.tag(parse.back(parse.back(place))) != "high")
    by_places = _by_places(parse)
    flags = _flag_filters(parse, parts, bool(found)) if rate is None else []
    parts.filters += flags
    mean = next((place for place in parse.all_of("aggregate") if parse.items[place].tag == "mean"), None)
    grain, cycle, per = _grains(parse, mean)
    _aggregated_orders(parse, ranked)
    found += measuring.measures(parse)
    found += [one for one in parts.measured if one.column not in {other.column for other in found}]
    counted = rows_counted(parse) if not found else None
    if counted is None and found and parse.first("aggregate") is not None:
        _loose_aggregate(parse, found)
    by = _columns_by(parse, by_places, found)
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
        if not (by or grain or cycle or growth or parts.thresholds) or any(
            parse.kind(p) == "unread" for p in range(len(parse.items))
        ):
            _refuse_empty(parse)
        if ranked.order is None and growth is None and not parts.thresholds and not parts.periods:
            if by and not compare:
                found.append(Measured(aggregate="count"))
            else:
                _refuse_empty(parse)
        else:
            hint = None if ranked.words == "" else measuring.hinted(ranked.words, parse)
            found.append(measuring.assumed(parse.table) if hint is None else Measured(aggregate="", column=hint.name))
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
    made = _with_order(parse, made, ranked, growth, ranking_by, figures)
    for _, sign, value in parts.thresholds:
        made = made.but(above=value) if sign.startswith(">") else made.but(below=value)
    if compare and not made.by and made.baseline is None:
        made = _compared_labels(parse, made)
    if made.running and made.grain is None:
        made = made.but(grain="month", assumed=(*made.assumed, "grain"))
    if share and not made.by and made.grain is None and made.cycle is None:
        made = _share_of_label(parse, made)
    return _singles(parse, made, ranked)


def _refuse_empty(parse: Parse) -> None:
    left = left_over(parse)
    if left:
        raise Problem(not_read(left), "unread", {"words": list(left)}, unread=left)
    raise Problem("There is nothing in the question to answer.", "empty")


def _take(parse: Parse, kind: str) -> int | None:
    found = None
    for place in parse.all_of(kind):
        parse.use(place, kind)
        found = place
    return found


def _growth(parse: Parse) -> str | None:
    """Which way of change is asked for: up, down, any or growth (in percent)."""
    found = None
    for place in parse.all_of("change"):
        tag = parse.items[place].tag
        found = tag if found is None or tag == "growth" else found
        parse.use(place, f"change {tag}")
    return found


@dataclass(slots=True)
class _Ranked:
    """The order asked for, how many, and the place of the word."""

    order: str | None = None
    top: int | None = None
    place: int | None = None
    pace: str | None = None
    numbered: bool = False
    words: str = ""


def superlatives(parse: Parse, figures: dict[int, tuple[float, str]]) -> _Ranked:
    """Words of order with the number beside them; each is used here, and may still make an aggregate."""
    made = _Ranked()
    for place in parse.all_of("pace"):
        made.pace = parse.items[place].tag
        made.order = "descending" if made.pace == "fastest" else "ascending"
        parse.use(place, f"order by change in percent, {made.order}")
        made.place = place
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


def _ranked_by_measure(parse: Parse, ranked: _Ranked) -> bool:
    """ "top 3 routes by revenue": what stands behind "by" is what is ranked by, if it is a figure."""
    if ranked.order is None:
        return False
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
                return True
        if parse.code(behind) in ("c", "y") or (parse.kind(behind) == "rows"):
            parse.use(place, "ranked by")
            return True
    return False


def rate_of(parse: Parse, parts: Parts) -> Measured | None:
    """ "cancellation rate", "share of sailings on time", "percent of respondents with a score of at least 8"."""
    places = parse.all_of("share")
    if not places:
        return None
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
            return Measured(aggregate="rate", condition=f"NOT {measuring._shown(column.name)}", said=True)
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


def _flag_filters(parse: Parse, parts: Parts, measured: bool) -> list[Filter]:
    """Columns of yes and no that are conditions: all but those that are measured or broken down by."""
    made = []
    for place in parse.columns("y"):
        before = parse.back(place)
        if parse.kind(before) == "by" or (parse.kind(before) == "aggregate" and parse.tag(before) == "mean"):
            continue
        if parse.kind(before) == "aggregate" and parse.tag(before) == "count":
            made.append(restrictions.yes_or_no(parse, place))
            continue
        made.append(restrictions.yes_or_no(parse, place))
    return made


def _by_places(parse: Parse) -> list[int]:
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
            if code == "y" and parse.kind(place) != "by":
                continue
            made.append(behind)
    return made


def _groups(parse: Parse, place: int) -> bool:
    """Whether a column of numbers may be broken down by here: something else is measured, and it has few values."""
    others = [one for one in parse.columns("cy") if one != place]
    counted = parse.first("aggregate", tag="count") is not None
    column = parse.column(place)
    return bool(others or counted) and column is not None and column.distinct <= _MOST_GROUPS


def _columns_by(parse: Parse, places: list[int], found: list[Measured]) -> tuple[str, ...]:
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


def _by(parse: Parse, measured: set[str | None]) -> tuple[str, ...]:
    return _columns_by_only(parse, _by_places(parse))


def _columns_by_only(parse: Parse, places: list[int]) -> tuple[str, ...]:
    made = []
    for place in places:
        linked = parse.kind(parse.back(place)) == "by"
        if place in parse.used or not (parse.code(place) == "d" or (parse.code(place) == "y" and linked)):
            continue
        column = parse.column(place)
        assert column is not None
        link = parse.back(place)
        if parse.kind(link) in ("by", "question", "join"):
            parse.use(link, "broken down by")
        parse.use(place, f"column {column.name}")
        made.append(column.name)
    return tuple(made)


def _grains(parse: Parse, mean: int | None) -> tuple[str | None, str | None, str | None]:
    """The grain or cycle to break down by, or the grain whose totals are averaged."""
    grain = cycle = per = None
    for place in parse.all_of("cycle"):
        cycle = parse.items[place].tag
        _link(parse, place)
        parse.use(place, f"by {cycle}")
    if _take(parse, "trend") is not None and parse.line is not None:
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


def _aggregated_orders(parse: Parse, ranked: _Ranked) -> None:
    """ "largest salary by department": of figures that are not added up the largest is that of a row."""
    place = ranked.place
    if place is None or ranked.numbered or ranked.pace or _asks_which(parse) or parse.first("by") is None:
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


def _loose_aggregate(parse: Parse, found: list[Measured]) -> None:
    """An aggregate that stands apart from its column: "salary of women, on average"."""
    for place in parse.all_of("aggregate"):
        tag = parse.items[place].tag
        if len(found) == 1 and not found[0].said and tag in ("mean", "total", "median") and found[0].column:
            column = parse.known.columns[found[0].column]
            if column.type == "number":
                parse.use(place, f"aggregate {tag}")
                found[0] = Measured(aggregate=measuring._fitting(tag, column, parse), column=column.name, said=True)
        elif tag == "total" or (tag == "distinct" and found[0].aggregate == "distinct"):
            parse.use(place, f"aggregate {tag}")


def _with_periods(parse: Parse, made: Asked, parts: Parts, growth: str | None, compare: bool) -> Asked:
    """The span, or two of them set against each other."""
    pairs = [span.pair for span in parts.said if span.pair is not None]
    if growth is not None:
        period, baseline = _pair(parse, parts, chronological=True)
        if period is None:
            if parse.line is None:
                raise Problem("The table has no dates.", "no dates")
            period = _last_year(parse)
            made = made.but(assumed=(*made.assumed, "period"))
        if made.grain is not None and not pairs and baseline is None and not made.by:
            # "growth by month": the figures over time, each beside the one before, are what a line shows.
            return made.but(period=None if not parts.periods else period)
        ranked = "change_pct" if growth == "growth" else "change"
        return made.but(period=period, baseline=baseline or "year-ago", ranked_by=ranked)
    if (len(parts.periods) == 2 or (compare and pairs)) and (compare or made.grain is None):
        if compare:
            period, baseline = _pair(parse, parts, chronological=True)
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
    period = iso(parts.periods[0]) if parts.periods else _last_year(parse)
    ranked = "change_pct" if growth == "growth" else "change"
    return made.but(period=period, baseline="year-ago", ranked_by=ranked, assumed=assumed)


def _last_year(parse: Parse) -> str:
    """The last complete year of the data, or the last year there is."""
    assert parse.line is not None
    calendar = parse.line.calendar
    year = calendar.holding(Grain.YEAR, parse.line.last_day)
    if year.end > parse.line.reported_to and year.previous().start >= parse.line.first_day:
        before = year.previous()
        if before.year_ago().end >= parse.line.first_day:
            return iso(before)
    return iso(year)


def _with_order(
    parse: Parse,
    made: Asked,
    ranked: _Ranked,
    growth: str | None,
    by_measure: bool,
    figures: dict[int, tuple[float, str]],
) -> Asked:
    """How groups are ranked, and how many are asked for."""
    groups = bool(made.by or made.grain or made.cycle)
    if ranked.pace is not None and made.baseline is None:
        made = made.but(period=made.period or _last_year(parse), baseline="year-ago",
                        assumed=made.assumed if made.period else (*made.assumed, "period"))  # fmt: skip
    if ranked.pace is not None:
        made = made.but(ranked_by="change_pct")
    order = ranked.order
    if growth in ("down",) and order == "descending":
        order = "ascending"
    if not groups:
        return made.but(ranked_by="value")
    if order is None and growth in ("up", "down") and _asks_which(parse):
        order = _FAST[growth]
    if order is None:
        return made.but(ranked_by="value" if made.baseline is None else made.ranked_by)
    top = ranked.top
    if top is None:
        top = 1 if not _asks_several(parse) else _SEVERAL
    return made.but(order=order, top=top, ranked_by=made.ranked_by if made.baseline is not None else "value")


def _asks_which(parse: Parse) -> bool:
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


def _compared_labels(parse: Parse, made: Asked) -> Asked:
    """ "compare Web and Agents on revenue": the labels side by side."""
    labelled = [one for one in made.filters if len(one.labels) > 1 and not one.negated]
    return made.but(by=(labelled[0].column,)) if labelled else made


def _share_of_label(parse: Parse, made: Asked) -> Asked:
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


def _singles(parse: Parse, made: Asked, ranked: _Ranked) -> Asked:
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


def _best_of(parse: Parse, place: int, figures: dict[int, tuple[float, str]]) -> bool:
    """ "the 3 most expensive moorings", "the 10 most delayed sailings"."""
    before = parse.back(place)
    if parse.code(before) == "c":
        before = parse.back(before)
    return parse.kind(before) == "superlative" and parse.back(before) in figures


def _listed_rows(parse: Parse, parts: Parts, figures: dict[int, tuple[float, str]], intent: str) -> Asked | None:
    """Rows themselves: "list the sailings …", "which sailings were …", "the ten sailings with the longest delays"."""
    rows = parse.all_of("rows")
    which = any(parse.kind(parse.back(place)) == "question" for place in rows)
    numbered = [
        place for place in rows
        if any(one in figures and one not in parse.used for one in (parse.back(place),))
        or _best_of(parse, place, figures)
    ]  # fmt: skip
    if intent != "rows" and not which and not numbered:
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
    descending = ranked.order == "descending"
    columns = parse.columns("c")
    if ranked.order is not None:
        hint = measuring.hinted(ranked.words, parse) if not columns else None
        if len(columns) != 1 and hint is None:
            raise Problem("In the order of which column?", "which measure")
        column = parse.column(columns[0]) if columns else hint
        assert column is not None
        if columns:
            parse.use(columns[0], f"column {column.name}")
        order = column.name
        if which and top is None:
            top = 1 if not parse.items[rows[0]].words.casefold().endswith("s") else _SEVERAL
    for place in rows:
        parse.use(place, "rows")
    for place in parse.all_of("question"):
        parse.use(place, "question word")
    parts.filters += _flags(parse)
    filters = _conditions(parse, parts)
    if not filters and order is None and intent == "rows" and not rows:
        return None
    return Asked(intent="rows", filters=filters, row_order=order, order="descending" if descending else None, top=top)
