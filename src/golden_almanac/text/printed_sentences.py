"""A printed table in words: its heads, its cells, and the one sentence above it."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..aggregation.measures import Measure
from ..analysis.printed_table import PrintedRow, PrintedTable
from ..analysis.total_statement import Cycle
from ..tables import Period
from . import dates, names, numbers
from .caveats import sentence
from .languages import count, say
from .summary import Summary, fit
from .text_tables import TextTable

NONE = "–"
#: Spaces before the inner labels of a table with two.
_INNER = "\u2003"


def label(found: PrintedTable, one: Any) -> str:
    """A label, or a period, as a head says it."""
    if found.cycle is not None and isinstance(one, int):
        return dates.place_in_year(one, quarters=found.cycle is Cycle.QUARTER)
    span = one if isinstance(one, Period) else found.span(one)
    if span is None:
        return names.label(one)
    name = dates.head(span)
    return say("{period} (part)", period=name) if found.unfinished(span) else name


def row_name(found: PrintedTable, row: PrintedRow) -> str:
    """What a row is called: its own label, the outer one stands above it."""
    if row.others:
        return count(row.others, "{n} other", "{n} others", n=numbers.whole(row.others))
    return label(found, row.labels[-1])


def printed_summary(found: PrintedTable, length: str) -> Summary:
    """What moved most, or leads; and what is not over."""
    return fit(_headline(found), [], printed_caveats(found) if length == "long" else [], length)


def _headline(found: PrintedTable) -> str:
    measure = found.measures[0]
    leaves = [place for place, row in enumerate(found.rows) if row.depth and not row.others]
    places = {"measure": names.capital(str(names.measure_name(measure)))}
    if found.change is not None:
        change = found.change[0]
        known = [place for place in leaves if np.isfinite(change[place])]
        if known:
            place = max(known, key=lambda one: abs(change[one]))
            moved = {
                "row": row_name(found, found.rows[place]),
                "size": numbers.difference(float(change[place]), measure),
                "first": label(found, found.columns[0]),
                "last": label(found, found.columns[-1]),
                **places,
            }
            if change[place] >= 0:
                return say("{measure}: {row} moved most, {size} up from {first} to {last}.", **moved)
            return say("{measure}: {row} moved most, {size} down from {first} to {last}.", **moved)
    # Of columns that are no parts of a whole, the last that is over.
    over = [place for place, column in enumerate(found.columns) if not found.unfinished(found.span(column))]
    at = over[-1] if over else -1
    values = found.values[0][:, at] if found.whole is None else found.whole[0]
    known = [place for place in leaves if np.isfinite(values[place])]
    if not known:
        return say("There is nothing to tell.")
    place = max(known, key=lambda one: values[one])
    led = {"row": row_name(found, found.rows[place]), "value": numbers.amount(float(values[place]), measure), **places}
    if found.whole is None:
        return say("{measure}, {column}: {row} is highest with {value}.", column=label(found, found.columns[at]), **led)
    whole = None if found.all is None else float(found.all[0])
    if measure.additive and not measure.level and whole and whole > 0:
        return say(
            "{measure}: {row} leads with {value}, {share} of {all}.",
            share=numbers.percent(100 * float(values[place]) / whole), all=numbers.amount(whole, measure), **led,
        )  # fmt: skip
    return say("{measure}: {row} is highest with {value}.", **led)


def printed_caveats(found: PrintedTable) -> list[str]:
    """What is left out, which columns are not over, and of what nothing is said therefore."""
    told = [sentence(name, facts) for name, facts in found.notes]
    spans = [span for span in map(found.span, found.columns) if span is not None and found.unfinished(span)]
    if not spans:
        return told
    told.append(
        say("Not all of the data of {which} are there.", which=names.listed([dates.head(span) for span in spans]))
    )
    if len(found.columns) > 1 and isinstance(found.columns[0], Period):
        told.append(say("So no change is told."))
    return told


def printed(found: PrintedTable, *, shares: bool = False) -> TextTable:
    """The table: labels, the cells of each measure, what all columns come to, the change, the share of the whole."""
    heads = [
        names.capital(str(names.dimension(found.down[0]))) if found.down[0] in found.table.names else _period_head()
    ]
    columns: list[list[str]] = []
    for place, measure in enumerate(found.measures):
        for head, cells in _columns(found, place, measure, shares):
            name = names.capital(str(names.measure_name(measure)))
            several = len(found.measures) > 1
            heads.append(name if not head else f"{name}, {head}" if several else head)
            columns.append(cells)
    rows = [
        (f"{_INNER if row.depth and len(found.down) > 1 else ''}{row_name(found, row)}", *(one[at] for one in columns))
        for at, row in enumerate(found.rows)
    ]
    total = (say("Total"), *(one[-1] for one in columns))
    return TextTable(title="", heads=tuple(heads), rows=tuple(rows), total=total, left=1)


def _period_head() -> str:
    return say("Period", "column")


def _columns(found: PrintedTable, place: int, measure: Measure, shares: bool) -> list[tuple[str, list[str]]]:
    """Heads and cells of one measure, the total last."""
    made = []
    for at, column in enumerate(found.columns):
        head = "" if column is None and found.across is None else label(found, column)
        values = [*found.values[place][:, at], found.totals[place][at]]
        made.append((head, [cell(value, measure) for value in values]))
    if found.whole is not None and found.all is not None and found.across is not None:
        values = [*found.whole[place], found.all[place]]
        made.append((say("Total"), [cell(value, measure) for value in values]))
    if found.change is not None and found.total_change is not None:
        changes = [*found.change[place], found.total_change[place]]
        made.append((say("Change", "column"), [_change(value, measure) for value in changes]))
        if measure.additive:
            before = [*found.values[place][:, 0], found.totals[place][0]]
            grown = [_grown(change, base) for change, base in zip(changes, before, strict=True)]
            made.append((say("Change in %", "column"), grown))
    if shares and measure.additive and not measure.level:
        values = [*found.values[place][:, -1], found.totals[place][-1]]
        if found.whole is not None and found.all is not None:
            values = [*found.whole[place], found.all[place]]
        made.append((say("Share", "column"), [_grown(value, values[-1], signed=False) for value in values]))
    return made


def cell(value: float, measure: Measure) -> str:
    """A figure with all its digits, so that it can be added up."""
    return numbers.in_full(float(value), measure) if np.isfinite(value) else NONE


def _change(value: float, measure: Measure) -> str:
    if not np.isfinite(value):
        return NONE
    if measure.in_points or not measure.additive:
        return numbers.signed(float(value), numbers.difference(float(value), measure))
    return numbers.signed(float(value), numbers.in_full(abs(float(value)), measure))


def _grown(value: float, base: float, *, signed: bool = True) -> str:
    if not np.isfinite(value) or not np.isfinite(base) or base <= 0:
        return NONE
    return numbers.per_cent(100 * value / base) if signed else numbers.percent(100 * value / base)
