"""Totals drawn: lines over periods, bars of labels, bars side by side of two columns of labels."""

from __future__ import annotations

from typing import Any

from ..analysis.totals import Totals
from ..tables import Grain
from ..text import dates, names, total_sentences
from ..text.languages import say
from .chart import Chart
from .frame_chart import draw_frame
from .frame_columns import Wishes

#: Labels of a second column that are lines of one chart.
_MOST_LINES = 8


def draw_totals(found: Totals, title: str, kind: str | None = None) -> Chart:
    """The chart of a kind, or of the one that fits. Raises LookupError where there is nothing to draw."""
    import pandas as pd

    rows = [row for row in found.rows if row[found.labels] is not None]
    if not found.labels or len(rows) < 2:
        raise LookupError("a single figure is not drawn")
    wanted = found.wanted
    over_time = wanted.grain is not None or wanted.cycle is not None
    figure = found.heads.index("share") if wanted.share else found.labels
    compared = wanted.baseline is not None
    if compared:
        # What the sentence is about is drawn, and the subtitle says that it is a change.
        figure = found.heads.index(wanted.ranked_by if wanted.ranked_by != "value" else "change")
    factor = 100.0 if wanted.share or found.measure.share else 1.0
    measure = str(total_sentences.told_as(found.measure, found.table))
    unit = "%" if factor == 100.0 or found.heads[figure] == "change_pct" else found.measure.unit or ""
    last = found.labels - 1
    # Periods go along the axis, the labels of what is beside them are its lines or bars.
    first = [_on_axis(found, last if over_time else 0, row) for row in rows]
    values = [None if row[figure] is None else factor * float(row[figure]) for row in rows]
    along, beside = (total_sentences.head_of(found, place) for place in ((last, 0) if over_time else (0, last)))
    measure += " " * (measure in (along, beside))
    data: dict[str, list[Any]] = {along: first, measure: values}
    by = None
    if found.labels > 1:
        data[beside] = [total_sentences.label_of(found, 0 if over_time else 1, row) for row in rows]
        by = beside
    chosen = kind or _fitting(found, several=len(set(first)) > 1)
    if chosen == "bars" and (compared or any(value is not None and value < 0 for value in values)):
        chosen = "diverging"
    parts = [names.capital(measure.strip()), unit]
    if wanted.baseline is not None and wanted.span is not None:
        parts += [
            total_sentences.further_head(found.heads[figure]) if unit != "%" else "",
            f"{dates.period(wanted.baseline)} → {dates.period(wanted.span)}",
        ]
    subtitle = " · ".join(part for part in parts if part)
    own = found.labels and found.heads[0] in found.table.stated.orders
    order = "given" if over_time or wanted.order is not None or own else "value"
    partial = bool(over_time and found.line is not None and found.line.partial_last and wanted.grain is found.line.grain
                   and _reaches_the_end(found, rows))  # fmt: skip
    # Lit is what the sentence leads with.
    known = [place for place, value in enumerate(values) if value is not None]
    unranked = compared and wanted.order is None
    lead = (min if wanted.order == "ascending" else max)(
        known, key=lambda place: abs(values[place] or 0.0) if unranked else values[place] or 0.0
    )
    wishes = Wishes(
        title=title,
        subtitle=subtitle,
        source=say("Source: {name}", name=found.table.name),
        x=along,
        y=[measure],
        by=by,
        highlight=[str(data[by or along][lead])],
        order=order,
        unit=unit if unit in ("", "%") else f" {unit}",
        partial_last=partial,
        decimals=None if compared else found.measure.decimals,
    )
    return draw_frame(pd.DataFrame(data), chosen, wishes)


def _fitting(found: Totals, *, several: bool) -> str:
    """The kind of chart that fits: lines over periods, bars of labels, bars side by side of two."""
    if found.wanted.grain is not None and found.wanted.cycle is None and several:
        return "line"
    return "grouped" if found.labels > 1 else "bars"


def chart_kind(found: Totals, kind: str | None = None) -> str | None:
    """The kind of chart that a total is drawn as; None for a single figure."""
    if not found.labels or len(found.rows) < 2:
        return None
    periods = {row[found.labels - 1] for row in found.rows}
    return kind or _fitting(found, several=len(periods) > 1)


def _on_axis(found: Totals, place: int, row: tuple[object, ...]) -> str:
    """A label along the axis: a month or day in short."""
    if found.heads[place] == "period" and found.wanted.grain in (Grain.MONTH, Grain.DAY, Grain.WEEK):
        value = str(row[place])[:10]
        month = found.wanted.grain is Grain.MONTH
        return dates.month_short(value) if month else f"{dates.day_short(value)} {value[:4]}"
    return total_sentences.label_of(found, place, row)


def _reaches_the_end(found: Totals, rows: list[tuple[object, ...]]) -> bool:
    assert found.line is not None
    assert found.wanted.grain is not None
    last = found.line.calendar.holding(found.wanted.grain, found.line.last_day)
    return str(rows[-1][found.labels - 1])[:10] == str(last.start)
