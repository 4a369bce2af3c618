"""Which rows a question is about: labels, comparisons, yes and no, spans of time."""

from __future__ import annotations

from ..aggregation.measure_names import spoken
from ..sql.expressions import quote_name, quote_value
from ..tables import Column, Period
from .asked import Filter, Problem
from .lexicon import FITS
from .parse import Parse, code_of
from .places import Item
from .spans import Span, iso
from .vocabulary import flag_sql
from .words import fold

_SIGNS = {"gt": ">", "ge": ">=", "lt": "<", "le": "<=", "eq": "="}
#: Comparisons that say what kind of column they are of: words of its name, then its natures.
_HINTS = {
    "older": (">", ("age",)),
    "younger": ("<", ("age",)),
    "longer": (">", ("duration",)),
    "shorter": ("<", ("duration",)),
    "heavier": (">", ("weight", "mass")),
    "lighter": ("<", ("weight", "mass")),
    "dearer": (">", ("cost", "price", "fee", "fare", "amount")),
    "cheaper": ("<", ("cost", "price", "fee", "fare", "amount")),
}
_SAID = {
    "minute": "minutes", "hour": "hours", "money": "money", "tonne": "tonnes", "kilo": "kilograms",
    "percent": "percent", "litre": "litres", "length": "kilometres", "second": "seconds", "day": "days",
}  # fmt: skip


def numbers_with_units(parse: Parse) -> dict[int, tuple[float, str]]:
    """Each number with its scale and unit taken in: "5 million", "30 minutes", "€100"."""
    made: dict[int, tuple[float, str]] = {}
    for place in parse.all_of("number"):
        item = parse.items[place]
        value, unit = item.number, ""
        behind = place + 1
        if parse.kind(behind) == "scale" and parse.items[behind].first == item.end:
            value *= parse.items[behind].number
            parse.use(behind, "scale")
            behind += 1
        if parse.kind(behind) == "unit":
            unit = parse.items[behind].tag
            parse.use(behind, f"unit {unit}")
        elif parse.kind(place - 1) == "unit" and not parse.items[place - 1].words.isalpha():
            unit = parse.items[place - 1].tag
            parse.use(place - 1, f"unit {unit}")
        made[place] = (value, unit)
    return made


def comparisons(parse: Parse, figures: dict[int, tuple[float, str]]) -> list[tuple[Filter, Column, str, float, bool]]:
    """Comparisons of columns with numbers: the condition, its column, its sign and number, and whether the column
    stands in the words before it (so that it may be what groups are compared by)."""
    made = [_with_number(parse, place, figures) for place in parse.all_of("number") if _is_with_number(parse, place)]
    for place in parse.all_of("compare_with"):
        if place in parse.used:
            continue
        tag = parse.items[place].tag
        if tag in ("or_more", "or_less"):
            number = parse.back(place)
            if number not in figures or number in parse.used:
                continue
            sign = ">=" if tag == "or_more" else "<="
            made.append(_compared(parse, number, number, sign, figures, [place]))
            continue
        number = parse.next(place)
        if number not in figures or number in parse.used:
            continue
        link = parse.back(place)
        if parse.kind(link) == "by" and parse.tag(link) == "by":
            # "delayed by more than 15 minutes"
            parse.use(link, "by")
        if tag == "between":
            joint, second = number + 1, number + 2
            while parse.at(joint) is None and joint < len(parse.items) and joint in parse.used:
                joint, second = joint + 1, second + 1
            if parse.kind(joint) in ("join", "arithmetic") and second in figures and second not in parse.used:
                low, high = figures[number][0], figures[second][0]
                column, before = _column_of(parse, place, second, figures[number][1] or figures[second][1], "")
                name = quote_name(column.name)
                sql = f"{name} BETWEEN {_plain(low)} AND {_plain(high)}"
                for one in (place, number, joint, second):
                    parse.use(one, f"condition {sql}", "condition")
                words = f"{column.name} between {_plain(low)} and {_plain(high)}"
                made.append((Filter(sql=sql, column=column.name, words=words), column, "between", low, before))
            continue
        sign = _SIGNS.get(tag) or {"after": ">", "before": "<"}.get(tag) or _HINTS.get(tag, ("", ()))[0]
        if sign:
            made.append(_compared(parse, place, number, sign, figures, [place], tag))
    return made


def _is_with_number(parse: Parse, place: int) -> bool:
    """ "sailings with no vehicles, with 3 vehicles": a number between the rows and a column of theirs."""
    return parse.kind(parse.back(place)) == "rows" and parse.code(place + 1) == "c"


def _with_number(
    parse: Parse, place: int, figures: dict[int, tuple[float, str]]
) -> tuple[Filter, Column, str, float, bool]:
    column = parse.column(place + 1)
    assert column is not None
    value = figures[place][0]
    sql = f"{quote_name(column.name)} = {_plain(value)}"
    parse.use(place, f"condition {sql}", "condition")
    parse.use(place + 1, f"column {column.name}", "condition")
    return Filter(sql=sql, column=column.name, words=f"{column.name} = {_plain(value)}"), column, "=", value, False


def _compared(
    parse: Parse,
    start: int,
    number: int,
    sign: str,
    figures: dict[int, tuple[float, str]],
    more: list[int],
    tag: str = "",
) -> tuple[Filter, Column, str, float, bool]:
    value, unit = figures[number]
    end = max([number, *more])
    column, before = _column_of(parse, start, end, unit, tag)
    if column.type == "boolean" and not (unit == "percent" and before):
        raise Problem(f"{column.name} is yes or no, and no number.", "no number", {"column": column.name})
    wrong = unit in FITS and column.unit is not None and column.unit not in FITS[unit]
    if wrong and not (unit == "percent" and column.nature == "share"):
        raise Problem(
            f"{spoken(column.name)} is in {column.unit}, and not in {_SAID.get(unit, unit)}.", "unit",
            {"column": column.name},
        )  # fmt: skip
    if unit == "percent" and (column.nature == "share" and column.unit != "%"):
        value /= 100
    turned = parse.at(parse.back(start))
    if turned is not None and turned.kind == "negation":
        sign = {">": "<=", ">=": "<", "<": ">=", "<=": ">", "=": "<>"}[sign]
        more = [*more, parse.back(start)]
    sql = f"{quote_name(column.name)} {sign} {_plain(value)}"
    for one in sorted({number, *more}):
        parse.use(one, f"condition {sql}", "condition")
    return (
        Filter(sql=sql, column=column.name, words=f"{column.name} {sign} {_plain(value)}"),
        column,
        sign,
        value,
        before,
    )


def _column_of(parse: Parse, start: int, end: int, unit: str, tag: str) -> tuple[Column, bool]:
    """The column that a comparison is of: the one before it, the one behind it, or the only one that its words or unit
    fit."""
    before, behind = parse.back(start), parse.next(end)
    if parse.kind(before) == "negation":
        before = parse.back(before)
    rated = parse.back(before) if parse.kind(before) == "share" else before
    if unit == "percent" and parse.code(rated) == "y":
        # "a no-show rate above 12%": the part of the rows.
        column = parse.column(rated)
        assert column is not None
        for place in {before, rated}:
            parse.use(place, f"rate of {column.name}")
        return column, True
    for place, is_before in ((before, True), (behind, False)):
        item = parse.at(place)
        if item is None or item.kind != "column":
            continue
        names = [name for name in item.columns if code_of(parse.known.columns[name], parse.line) in "cd"]
        names = [name for name in names if parse.known.columns[name].type == "number"]
        if len(names) > 1 and unit:
            names = [name for name in names if parse.known.columns[name].unit in FITS.get(unit, ())] or names
        if len(names) == 1:
            column = parse.known.columns[names[0]]
            parse.use(place, f"column {column.name}", "condition")
            return column, is_before
        if len(names) > 1:
            parse.column(place)
    if unit in ("", "year") and tag not in _HINTS and parse.kind(before) == "rows":
        # "people under 30"
        words = parse.items[before].plain
        ages = [c for c in parse.table.columns if c.type == "number" and "age" in fold(spoken(c.name)).split()]
        if words in parse.words.people and len(ages) == 1:
            return ages[0], False
    if tag in _HINTS:
        names_, natures = _HINTS[tag][1], _HINTS[tag][1]
        fitting = [
            c
            for c in parse.table.columns
            if c.type == "number" and (set(fold(spoken(c.name)).split()) & set(names_) or c.nature in natures)
        ]
        fitting = [c for c in fitting if fold(c.name) in names_] or fitting
        if len(fitting) == 1:
            return fitting[0], False
    if unit:
        fitting = [c for c in parse.table.columns if c.type == "number" and c.unit in FITS.get(unit, ())]
        if len(fitting) == 1:
            return fitting[0], False
    words = " ".join(parse.items[place].words for place in range(max(0, start), min(end + 1, len(parse.items))))
    raise Problem(
        f"It is not clear which column “{words}” is about.", "which column", {"words": words}, unread=(words,)
    )


def _plain(value: float) -> str:
    return str(int(value)) if float(value).is_integer() and abs(value) < 1e15 else repr(value)


def labels(parse: Parse) -> list[Filter]:
    """Labels that rows have, or have not; those of one column that stand side by side are one condition."""
    made: list[tuple[str, list[str], bool]] = []
    previous = -9
    for place in parse.all_of("label"):
        item = parse.items[place]
        column, label = _which(parse, place, item)
        negation = parse.back(place)
        if parse.kind(negation) == "column" and column in parse.items[negation].columns:
            negation = parse.back(negation)
        negated = parse.kind(negation) == "negation"
        between = range(previous + 1, place)
        joins = ("join", "column", "negation", "comparing", "by")
        joint = previous >= 0 and made[-1][0] == column and all(parse.items[one].kind in joins for one in between)
        if negated:
            parse.use(negation, "not")
        if joint and (not negated or made[-1][2]):
            made[-1][1].append(label)
            for one in between:
                if parse.kind(one) == "join":
                    parse.use(one, "and")
        else:
            made.append((column, [label], negated))
        link = parse.back(place)
        if parse.kind(link) == "by" and parse.tag(link) == "by":
            parse.use(link, "of")
        told = "not " if made[-1][2] else ""
        parse.use(place, f"value {told}{column} = {label}", "value")
        _qualifier(parse, place, column)
        previous = place
    return [label_filter(parse, column, found, negated) for column, found, negated in made]


def _qualifier(parse: Parse, place: int, column: str) -> None:
    """The column's own name beside a label: "route Outer Bar", "Night fares"; not behind "by" or "each"."""
    for beside in (place - 1, place + 1):
        item = parse.at(beside)
        if item is None or item.kind != "column" or column not in item.columns:
            continue
        before = parse.at(beside - 1)
        if before is not None and before.kind in ("by", "question", "superlative") and beside > place - 1 + 1:
            continue
        if before is not None and before.kind in ("by", "question", "superlative"):
            continue
        parse.use(beside, f"column {column}")


def _which(parse: Parse, place: int, item: Item) -> tuple[str, str]:
    """The one column and label meant. Raises Problem where several could be."""
    pairs = list(item.labels)
    if len({column for column, _ in pairs}) > 1 or len(pairs) > 1:
        named = {
            name
            for beside in (place - 1, place + 1)
            if parse.kind(beside) == "column"
            for name in parse.items[beside].columns
        }
        pairs = [pair for pair in pairs if pair[0] in named] or pairs
    if len(pairs) > 1:
        exact = [pair for pair in pairs if pair[1] == item.words]
        pairs = exact if len(exact) == 1 else pairs
    if len(pairs) > 1:
        shown = [f"{label} ({column})" for column, label in pairs[:6]]
        raise Problem(
            f"“{item.words}” could be {', '.join(shown[:-1])} or {shown[-1]}.",
            "several labels",
            {"words": item.words, "labels": shown},
            alternatives=tuple(label for _, label in pairs[:6]),
        )
    return pairs[0]


def label_filter(parse: Parse, column: str, found: list[str], negated: bool) -> Filter:
    found = list(dict.fromkeys(found))
    name = quote_name(column)
    if len(found) == 1:
        sql = f"{name} <> {quote_value(found[0])}" if negated else parse.table.equals(column, found[0])
    else:
        listed = ", ".join(quote_value(label) for label in found)
        sql = f"{name} {'NOT ' if negated else ''}IN ({listed})"
    words = f"{column} {'not ' if negated else ''}{' or '.join(found)}"
    return Filter(sql=sql, column=column, words=words, labels=tuple(found), negated=negated)


def yes_or_no(parse: Parse, place: int) -> Filter:
    """A column of yes and no as a condition."""
    column = parse.column(place)
    assert column is not None
    before = parse.back(place)
    negated = parse.kind(before) == "negation"
    if negated:
        parse.use(before, "not")
    sql = flag_sql(column, parse.table, negated=negated)
    parse.use(place, f"{'not ' if negated else ''}{column.name}", "condition")
    return Filter(sql=sql, column=column.name, words=f"{'not ' if negated else ''}{column.name}", negated=negated)


def spans(parse: Parse) -> tuple[list[Period], list[Filter], list[Span]]:
    """The periods said, in their order, and what comes again every year or week as conditions."""
    periods: list[Period] = []
    filters: list[Filter] = []
    found: list[Span] = []
    for place in parse.all_of("span"):
        span = parse.items[place].span
        assert span is not None
        assert parse.line is not None
        negation = parse.back(place)
        negated = parse.kind(negation) == "negation"
        time = quote_name(parse.line.column)
        found.append(span)
        if span.period is not None and not negated:
            periods.append(span.period)
            parse.use(place, f"span {iso(span.period)}", "span")
            continue
        if span.period is not None:
            sql = f"NOT (CAST({time} AS DATE) BETWEEN DATE '{span.period.start}' AND DATE '{span.period.end}')"
        else:
            sql = span.sql.format(time=time)
            if negated:
                sql = f"NOT ({sql})"
        if negated:
            parse.use(negation, "not")
        parse.use(place, f"days where {sql}", "span")
        filters.append(Filter(sql=sql, column=parse.line.column, words=f"{'not ' if negated else ''}{span.words}"))
    for place in parse.all_of("join"):
        sides = [parse.items[one].kind for one in (place - 1, place + 1) if 0 <= one < len(parse.items)]
        if sides == ["span", "span"]:
            parse.use(place, "and")
    return periods, filters, found


def in_period(parse: Parse, period: Period) -> Filter:
    """A period as a condition, for calls that take none."""
    assert parse.line is not None
    day = f"CAST({quote_name(parse.line.column)} AS DATE)"
    sql = f"{day} BETWEEN DATE '{period.start}' AND DATE '{period.end}'"
    return Filter(sql=sql, column=parse.line.column, words=iso(period))
