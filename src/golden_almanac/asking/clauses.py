"""What all kinds of question share: small words, spans that lie in the data, what was left unread."""

from __future__ import annotations

from dataclasses import dataclass

from ..tables import Grain, Period
from . import restrictions
from .asked import Filter, Measured, Problem
from .parse import Parse
from .spans import Span, iso


@dataclass(slots=True)
class Parts:
    """What was found before the intent was known."""

    filters: list[Filter]
    thresholds: list[tuple[Filter, str, float]]
    periods: list[Period]
    said: list[Span]
    measured: list[Measured]


def left_over(parse: Parse) -> tuple[str, ...]:
    """The words that nothing was made of: those that nobody knows, if there are such, else those that fit nowhere."""
    places = parse.unread()
    unknown = [place for place in places if parse.items[place].kind == "unread"]
    return tuple(parse.items[place].words for place in unknown or places)


def not_read(words: tuple[str, ...]) -> str:
    shown = ", ".join(f"“{word}”" for word in words[:6])
    return f"Nothing in the table is known as {shown}." if len(words) == 1 else f"These words are not read: {shown}."


def refuse_empty(parse: Parse) -> None:
    left = left_over(parse)
    if left:
        raise Problem(not_read(left), "unread", {"words": list(left)}, unread=left)
    raise Problem("There is nothing in the question to answer.", "empty")


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


def check_repeated(parse: Parse) -> None:
    """Somebody who says a word three times over asks nothing."""
    said = [item.words.casefold() for item in parse.items]
    if len(said) > 2 and len(set(said)) == 1:
        raise Problem("There is nothing in the question to answer.", "empty")


def check_dates(parse: Parse) -> None:
    if parse.line is not None:
        return
    for place in parse.free("grain", "cycle", "season", "change", "why", "running", "trend", "outlook", "span"):
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


def subject_of(parse: Parse) -> str:
    """What the question is about: d of labels, rows of rows, c of figures."""
    for place in range(len(parse.items)):
        code = parse.code(place)
        if code in ("d", "rows", "c", "y", "t", "label", "grain"):
            counted = parse.kind(parse.back(place)) == "aggregate"
            return "rows" if code == "d" and counted else code
    return ""


def conditions(parse: Parse, parts: Parts) -> tuple[Filter, ...]:
    """All conditions on rows, the spans of time among them, for calls that take no period."""
    parts.filters += [one[0] for one in parts.thresholds]
    if len(parts.periods) > 1:
        raise Problem("Two spans are named, and it is not clear how they go together.", "two spans")
    return (*parts.filters, *(restrictions.in_period(parse, one) for one in parts.periods))


def aside(parse: Parse, *kinds: str) -> None:
    """Words that an intent implies: "why did … rise", "differ on average"."""
    for place in parse.all_of(*kinds):
        parse.use(place, parse.items[place].tag)


def take(parse: Parse, kind: str) -> int | None:
    found = None
    for place in parse.all_of(kind):
        parse.use(place, kind)
        found = place
    return found


def rows_counted(parse: Parse) -> Measured | None:
    """ "how many", "number of sailings"."""
    rows = parse.all_of("rows")
    counts = [place for place in parse.all_of("aggregate") if parse.items[place].tag == "count"]
    if not rows and not counts:
        return None
    for place in (*counts, *rows):
        parse.use(place, "number of rows" if place in counts else "rows")
    return Measured(aggregate="count", said=bool(counts))


def pair_of(parts: Parts) -> tuple[str | None, str | None]:
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


def last_year(parse: Parse) -> str:
    """The last complete year of the data, or the last year there is."""
    assert parse.line is not None
    calendar = parse.line.calendar
    year = calendar.holding(Grain.YEAR, parse.line.last_day)
    if year.end > parse.line.reported_to and year.previous().start >= parse.line.first_day:
        before = year.previous()
        if before.year_ago().end >= parse.line.first_day:
            return iso(before)
    return iso(year)
