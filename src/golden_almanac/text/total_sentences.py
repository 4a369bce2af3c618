"""What totals and lists of rows say: the figure, when and where it was so, and what it stands against."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from ..aggregation.measures import Measure
from ..analysis.row_lists import Listed
from ..analysis.total_statement import Cycle
from ..analysis.totals import Totals
from ..findings import Slice
from ..tables import Period
from ..tables.meaning.row_nouns import row_noun
from . import dates, names, numbers
from .languages import Noun, mark, qualified, say, statement
from .summary import Summary, fit
from .text_tables import TextTable
from .text_tables.text_table import NONE

#: Rows of a table of text at most.
_MOST_ROWS = 60
#: Whole numbers below this are told with all their digits.
_WHOLE = 1e7
_QUARTERS = ("the first quarter", "the second quarter", "the third quarter", "the fourth quarter")


def rows_noun(table: Any) -> Noun:
    """What rows are called, as a noun that stands for many."""
    return names.noun(row_noun(table) or "rows").in_plural()


def told_as(measure: Measure, table: Any, where: Slice | None = None) -> Noun:
    """A measure as the subject of a sentence; the number of rows by what they are called."""
    if measure.name == "count(*)":
        made = rows_noun(table)
        if where is not None and where.conditions:
            made = qualified(made, mark("{noun} of {label}"), label=names.where_label(where))
        return made
    return names.subject(measure, where if where is not None and where.conditions else None)


def totals_summary(found: Totals, where: Slice, rest: Sequence[str]) -> Summary:
    """The answer in one sentence, then what it rests on and stands against."""
    wanted = found.wanted
    told = _Told(found, where, "; ".join(rest))
    if not found.counted and not (wanted.baseline and any(value is not None for value in found.values)):
        return fit(say("No {rows}{when}: nothing meets the condition.", rows=told.rows, when=told.when), [], [])
    if wanted.baseline is not None:
        headline = _compared(told)
    elif found.labels:
        headline = _ranked(told)
    else:
        headline = _single(told)
    body = [text for text in (_beside(found), *_rested(found)) if text]
    return fit(headline, body, _caveats(found))


class _Told:
    """What is told: who, when, where, in words."""

    def __init__(self, found: Totals, where: Slice, rest: str) -> None:
        self.found, self.where = found, where
        self.rows = rows_noun(found.table)
        self.who = told_as(found.measure, found.table, where)
        self.aside = f" ({rest})" if rest else ""
        span = found.wanted.span
        self.dated = "" if span is None else f" {dates.when(span, found.measure)}"
        # A condition belongs to the figure: without it the sentence would be of other rows.
        self.when = self.dated + self.aside

    @property
    def name(self) -> str:
        return names.capital(self.who)


def _amount(found: Totals, value: Any, measure: Measure | None = None) -> str:
    measure = measure or found.measure
    if value is None:
        return NONE
    if measure.additive and float(value).is_integer() and abs(float(value)) < _WHOLE:
        # Who counts wants to find the very count again.
        return numbers.in_full(float(value), measure)
    return numbers.amount(float(value), measure)


def _single(told: _Told) -> str:
    found = told.found
    value, measure = found.values[0], found.measure
    if value is None:
        return say("{who}{when}: no value, it is missing in all {rows}.", who=told.name, when=told.when, rows=told.rows)
    places = {"who": told.name, "value": _amount(found, value), "when": told.when}
    if found.wanted.per is not None:
        return say("{who}{when}: {value} {per} on average.", per=names.per(found.wanted.per.value), **places)
    if found.line is None:
        text = say("{who}{when}: {value}.", **places)
    elif measure.name == "count(*)" and not told.where.conditions and float(value) != 1:
        text = say("There were {value} {rows}{when}.", rows=told.rows, **places)
    else:
        text = say("{who} {verb:was|were} {value}{when}.", verb=told.who, **places)
    if found.year_before is not None:
        before, then = found.year_before
        text = say(
            "{claim}, against {value} {when}{percent}.", claim=text.removesuffix("."), value=_amount(found, then),
            when=dates.when(before, measure), percent=_percent(float(value), then, measure),
        )  # fmt: skip
    return text


def _percent(value: float, then: float, measure: Measure) -> str:
    """ " (+4.2%)"; of shares in points; "" where there is no percentage to give."""
    if measure.in_points:
        return statement((" (", numbers.signed(value - then, numbers.difference(value - then, measure)), ")"))
    if then <= 0 or value < 0:
        return ""
    return statement((" (", numbers.per_cent(100 * (value / then - 1)), ")"))


def label_text(found: Totals, row: Sequence[Any]) -> str:
    """The labels of a row as said: "Outer Bar, Web", "March 2025", "Monday"."""
    return ", ".join(label_of(found, place, row) for place in range(found.labels))


def label_of(found: Totals, place: int, row: Sequence[Any]) -> str:
    """One label of a row as said."""
    return _label(found, place, row[place])


def _label(found: Totals, place: int, value: Any) -> str:
    name = found.heads[place]
    wanted = found.wanted
    if value is None:
        return names.label(None)
    if place < len(wanted.by):
        return names.label_of(name, str(value))
    if name == "period" and wanted.grain is not None and found.line is not None:
        return dates.period(_period(found, value))
    return dates.calendar_name(cycle_name(wanted.cycle, int(value)))


def _period(found: Totals, value: Any) -> Period:
    assert found.line is not None
    assert found.wanted.grain is not None
    return found.line.calendar.holding(found.wanted.grain, np.datetime64(str(value)[:10]))


def cycle_name(cycle: Cycle | None, number: int) -> str:
    """The English name of a part of a cycle."""
    listed = {Cycle.WEEKDAY: dates.DAYS, Cycle.MONTH: dates.MONTHS, Cycle.QUARTER: _QUARTERS}[cycle or Cycle.WEEKDAY]
    return listed[number - 1]


def _known(found: Totals) -> list[tuple[Any, ...]]:
    return [row for row in found.rows if row[found.labels] is not None]


def _ranked(told: _Told) -> str:
    """Who leads, and before whom; or, where no order was asked for, the highest and the lowest."""
    found = told.found
    rows = _known(found)
    if not rows:
        return say("{who}{when}: no value, it is missing in all {rows}.", who=told.name, when=told.when, rows=told.rows)
    place = found.heads.index("share") if found.wanted.share else found.labels

    def value(row: tuple[Any, ...]) -> str:
        return numbers.share(float(row[place])) if found.wanted.share else _amount(found, row[place])

    who = say("{who}, as a share", who=told.name) if found.wanted.share else told.name
    if found.wanted.running:
        last = rows[-1]
        return say("{who}{when}: {value} by {label}.", who=who, when=told.aside, value=value(last),
                   label=label_text(found, last))  # fmt: skip
    ordered = rows if found.wanted.order else sorted(rows, key=lambda row: -float(row[place]))
    further = [] if found.runner_up is None or found.runner_up[found.labels] is None else [found.runner_up]
    first, behind = ordered[0], [*ordered[1:], *further]
    places = {"who": who, "when": told.when, "label": label_text(found, first), "value": value(first)}
    if not behind:
        return say("{who}{when}: {value} for {label}.", **places)
    down = found.wanted.order != "ascending"
    if found.wanted.order:
        level = [row for row in [first, *behind] if row[place] == first[place]]
        if len(level) > 1:
            places["labels"] = names.listed([label_text(found, row) for row in level[:4]])
            return (
                say("{who}{when}: highest for {labels}, level at {value}.", **places)
                if down
                else say("{who}{when}: lowest for {labels}, level at {value}.", **places)
            )
        places |= {"second": label_text(found, behind[0]), "next": value(behind[0])}
        return (
            say("{who}{when}: highest for {label} ({value}), then {second} ({next}).", **places)
            if down
            else say("{who}{when}: lowest for {label} ({value}), then {second} ({next}).", **places)
        )
    places |= {"second": label_text(found, behind[-1]), "next": value(behind[-1])}
    return say("{who}{when}: highest for {label} ({value}), lowest for {second} ({next}).", **places)


def _compared(told: _Told) -> str:
    """What changed between two spans, or whose figure changed most."""
    found = told.found
    wanted, measure = found.wanted, found.measure
    assert wanted.span is not None
    assert wanted.baseline is not None
    rows = [row for row in found.rows if row[found.labels] is not None and row[found.labels + 1] is not None]
    if not rows:
        return say("{who} cannot be compared: one of the two spans has no {rows}.", who=told.name, rows=told.rows)
    row = rows[0]
    if found.labels and wanted.order is None:
        row = max(rows, key=lambda one: (abs(float(one[found.labels + 2])), str(one)))
    new, old = float(row[found.labels]), float(row[found.labels + 1])
    places = {
        "who": told.name, "old": _amount(found, old), "new": _amount(found, new),
        "then": dates.when(wanted.baseline, measure), "now": dates.when(wanted.span, measure),
        "size": numbers.signed(new - old, numbers.difference(new - old, measure)),
        "percent": "" if measure.in_points else _percent(new, old, measure), "label": label_text(found, row),
        "aside": told.aside,
    }  # fmt: skip
    if wanted.grain is not None:
        # Each period stands against its own.
        span = _period(found, row[found.heads.index("period")])
        far = wanted.span.start - wanted.baseline.start
        before = span.calendar.holding(wanted.grain, span.start - far + np.timedelta64(3, "D"))
        places |= {"then": dates.when(before, measure), "now": dates.when(span, measure)}
    if not found.labels:
        return say("{who}{aside}: from {old} {then} to {new} {now}, {size}{percent}.", **places)
    if wanted.order == "ascending":
        return (
            say("{who}{aside}: {label} fell most, from {old} {then} to {new} {now}, {size}{percent}.", **places)
            if (new < old)
            else say("{who}{aside}: {label} rose least, from {old} {then} to {new} {now}, {size}{percent}.", **places)
        )
    if wanted.order == "descending":
        return (
            say("{who}{aside}: {label} rose most, from {old} {then} to {new} {now}, {size}{percent}.", **places)
            if (new > old)
            else say("{who}{aside}: {label} fell least, from {old} {then} to {new} {now}, {size}{percent}.", **places)
        )
    return say("{who}{aside}: {label} changed most, from {old} {then} to {new} {now}, {size}{percent}.", **places)


def _beside(found: Totals) -> str:
    """All of it together, behind its parts."""
    if found.whole is None or found.wanted.baseline is not None:
        return ""
    value = _amount(found, found.whole)
    if found.measure.additive:
        known = [float(row[found.labels]) for row in _known(found)]
        if (
            found.wanted.top is not None
            and found.whole > 0
            and len(known) < found.groups
            and min(known, default=-1) >= 0
        ):
            share = numbers.percent(100 * sum(known) / found.whole)
            return say("That is {share} of {value} in all.", share=share, value=value)
        return say("All together: {value}.", value=value)
    return say("Over all {rows}: {value}.", rows=rows_noun(found.table), value=value)


def _rested(found: Totals) -> list[str]:
    """How many rows took part, of which span."""
    rows, n = rows_noun(found.table), numbers.whole(found.counted)
    made = []
    line, span = found.line, found.wanted.span
    counting = found.measure.name == "count(*)" and not found.labels
    if span is None and line is not None:
        whole = Period(start=line.first_day, end=line.last_day, calendar=line.calendar)
        made.append(say("{n} {rows}, {span}.", n=n, rows=rows, span=dates.span_of(whole)))
    elif not counting:
        made.append(say("{n} {rows} took part.", n=n, rows=rows))
    if found.wanted.per is not None and span is not None:
        made.append(say("Whole periods only: {span}.", span=dates.span_of(span)))
    if len(found.rows) > 1 and found.wanted.top is not None and found.groups > len(found.rows):
        made.append(
            say("{shown} of {n} are shown.", shown=numbers.whole(len(found.rows)), n=numbers.whole(found.groups))
        )
    return made


def _caveats(found: Totals) -> list[str]:
    line, wanted = found.line, found.wanted
    if line is None:
        return []
    if found.unfinished and wanted.span is not None:
        return [
            say(
                "{period} is not over: the data end on {day}.",
                period=names.capital(dates.period(wanted.span)),
                day=dates.day(line.last_day),
            )
        ]
    if wanted.grain is not None and found.rows and line.partial_last and wanted.grain is line.grain:
        last = line.calendar.holding(wanted.grain, line.last_day)
        if any(str(row[found.labels - 1])[:10] == str(last.start) for row in found.rows):
            return [
                say(
                    "{period} is not over: the data end on {day}.",
                    period=names.capital(dates.period(last)),
                    day=dates.day(line.last_day),
                )
            ]
    return []


def totals_table(found: Totals, most: int = _MOST_ROWS) -> tuple[TextTable, ...]:
    """The figures as a table of text; nothing for a single figure."""
    if not found.labels:
        return ()
    heads = [*(head_of(found, place) for place in range(found.labels))]
    measures = found.wanted.measures
    heads += [str(told_as(measure, found.table)) for measure in measures]
    more = found.heads[found.labels + len(measures) :]
    heads += [further_head(name) for name in more]
    rows = []
    for row in found.rows[:most]:
        cells = [_label(found, place, row[place]) for place in range(found.labels)]
        for place, measure in enumerate(measures):
            value = row[found.labels + place]
            whole = measure.additive or measure.share
            cells.append(_amount(found, value, measure) if value is None or not whole else _full(value, measure))
        for place, name in enumerate(more):
            cells.append(_further(found, name, row[found.labels + len(measures) + place]))
        rows.append(tuple(cells))
    left = found.groups - len(rows)
    title = say("{n} more are left out", n=numbers.whole(left)) if left > 0 and found.wanted.top is None else ""
    return (TextTable(title=title, heads=tuple(heads), rows=tuple(rows), left=found.labels),)


def _full(value: Any, measure: Measure) -> str:
    """A sum in a table: with the digits that others add up."""
    return numbers.in_full(float(value), measure)


_MORE = {
    "baseline": mark("before", "column"),
    "change": mark("change", "column"),
    "change_pct": mark("percent", "column"),
    "share": mark("share", "column"),
}


def head_of(found: Totals, place: int) -> str:
    """What a column of labels is called."""
    if place < len(found.wanted.by):
        return str(names.dimension(found.heads[place]))
    return str(
        names.grain_noun(found.wanted.grain.value if found.wanted.grain and found.heads[place] == "period" else None)
    )


def further_head(name: str) -> str:
    """What a figure beside the measure is called: before, change, percent, share."""
    return say(_MORE[name], "column")


def _further(found: Totals, name: str, value: Any) -> str:
    if value is None:
        return NONE
    if name == "share":
        return numbers.share(float(value))
    if name == "change_pct":
        return numbers.per_cent(float(value))
    if name == "change":
        return numbers.signed(float(value), numbers.difference(float(value), found.measure))
    return _full(value, found.measure) if found.measure.additive else _amount(found, value)


def listed_summary(found: Listed) -> Summary:
    """How many rows there are, and which are shown."""
    rows, n = rows_noun(found.table), numbers.whole(found.matched)
    shown = numbers.whole(len(found.rows))
    if not found.matched:
        return fit(say("There are no such {rows}.", rows=rows), [], [])
    if found.order is not None and len(found.rows) < found.matched:
        unit = found.table.column(found.order).unit
        by = names.column(found.order, unit)
        single = len(found.rows) == 1 and found.order in found.columns
        top = found.rows[0][found.columns.index(found.order)] if single else None
        value = numbers.with_unit(top, unit) if isinstance(top, (int, float)) else NONE if top is None else _cell(top)
        headline = (
            say("Highest {by}: {value}, of {n} {rows}.", by=by, value=value, n=n, rows=rows)
            if single and found.descending
            else say("Lowest {by}: {value}, of {n} {rows}.", by=by, value=value, n=n, rows=rows)
            if single
            else say("The {shown} {rows} with most {by}, of {n}.", shown=shown, rows=rows, by=by, n=n)
            if found.descending
            else say("The {shown} {rows} with least {by}, of {n}.", shown=shown, rows=rows, by=by, n=n)
        )
    elif len(found.rows) < found.matched:
        headline = say("{n} {rows}; the first {shown} are shown.", n=n, rows=rows, shown=shown)
    else:
        headline = say("{n} {rows}.", n=n, rows=rows)
    return fit(headline, [], [])


def listed_table(found: Listed) -> TextTable:
    rows = tuple(tuple(NONE if cell is None else _cell(cell) for cell in row) for row in found.rows[:_MOST_ROWS])
    return TextTable(title="", heads=found.columns, rows=rows, left=1)


def _cell(value: Any) -> str:
    if isinstance(value, bool):
        return say("yes") if value else say("no")
    if isinstance(value, float):
        return numbers.figure(value, 8)
    return str(value)
