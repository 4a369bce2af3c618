"""How a frame is drawn as each kind of chart. What cannot be drawn becomes a sentence, never an empty frame."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np

from ..aggregation.measures import ROWS
from ..support.errors import RequestError
from ..text import consistent_rounding, numbers
from ..text.languages import say
from .bars import bars
from .boxes import boxes
from .chart import Chart, more_left_out
from .empty_state import said
from .frame_columns import Frame, folded, marked
from .heatmap import heat
from .histogram import histogram
from .intervals import intervals
from .marks import with_notes
from .plain_lines import paths
from .scatter import scatter
from .sparklines import card, spark_table
from .stacked import two_way

Plain = dict[str, Any]


def _bars(frame: Frame, plain: Plain, signed: bool = False) -> Chart:
    labels, values = frame.summed()
    if not labels:
        return said(**plain, sentence=_nothing(), data=frame.frame)
    lit = marked(frame, labels, values)
    reference = next(iter(frame.wishes.references.items()), None)
    return bars(
        **plain,
        labels=labels,
        values=values.tolist(),
        highlight=lit,
        measure=replace(ROWS, decimals=frame.wishes.decimals),
        by=frame.x or "row",
        adds_up=not signed and bool((values >= 0).all()),
        order=frame.wishes.order == "value" and not signed,
        reference=reference,
        signed=signed,
        most=frame.wishes.most,
        suffix=frame.wishes.unit,
        hatched=frame.labels()[-1:] if frame.wishes.partial_last else (),
        notes=(say("hatched: unfinished"),) if frame.wishes.partial_last else (),
    )


def _diverging(frame: Frame, plain: Plain) -> Chart:
    return _bars(frame, plain, signed=True)


def _two(frame: Frame, plain: Plain, stacked: bool, shares: bool = False) -> Chart:
    rows, parts, values = frame.crossed()
    if not np.isfinite(values).any():
        return said(**plain, sentence=_nothing(), data=frame.frame)
    if stacked and float(np.nanmin(values)) < 0:
        worst = rows[int(np.argwhere(values == np.nanmin(values))[0][0])]
        return said(
            **plain,
            data=frame.frame,
            sentence=say(
                "{label} holds a negative figure, and parts of a whole cannot be negative; draw them side by side.",
                label=worst,
            ),
        )
    rows, values = folded(rows, values, frame.wishes.most)
    columns, flipped = folded(parts, values.T, 8)
    return two_way(
        **plain,
        rows=rows,
        parts=columns,
        values=flipped.T,
        by=(frame.x or "row", frame.by or "what"),
        stacked=stacked,
        shares=shares,
        suffix=frame.wishes.unit,
    )


def _line(frame: Frame, plain: Plain) -> Chart:
    if frame.by is not None:
        labels, parts, grid = frame.crossed()
        series = [(part, grid[:, j]) for j, part in enumerate(parts)]
    else:
        labels = frame.labels()
        shown = [name for name in frame.y if name not in ("low", "high")]
        series = [(name, frame.values(name)) for name in shown or frame.y]
    if not any(np.isfinite(values).any() for _, values in series):
        return said(**plain, sentence=_nothing(), data=frame.frame)
    if len(labels) < 2:
        value = next(float(v) for _, values in series for v in values if np.isfinite(v))
        told = say("There is a single point, {label}: {value}.", label=labels[0], value=numbers.plain(value))
        return said(**plain, data=frame.frame, sentence=told)
    lit = [frame.wishes.highlight] if isinstance(frame.wishes.highlight, str) else list(frame.wishes.highlight or ())
    if len(series) > 8:
        series = sorted(series, key=lambda pair: -float(np.nansum(np.abs(pair[1]))))[:8]
        plain = {**plain, "subtitle": with_notes(plain["subtitle"], say("the largest eight drawn"))}
    series.sort(key=lambda pair: pair[0] not in lit)
    band = (frame.values("low"), frame.values("high")) if {"low", "high"} <= set(frame.y) and frame.by is None else None
    ahead = frame.wishes.forecast_from
    return paths(
        **plain,
        labels=labels,
        series=series,
        by=frame.x or "place",
        band=band,
        forecast_from=labels.index(ahead) if ahead in labels else None,
        events=[(labels.index(place), text) for place, text in frame.wishes.events.items() if place in labels],
        references=list(frame.wishes.references.items()),
        partial_last=frame.wishes.partial_last,
    )


def _dots(frame: Frame, plain: Plain) -> Chart:
    labels, values = frame.labels(), frame.values()
    known = [place for place in range(len(labels)) if np.isfinite(values[place])]
    if not known:
        return said(**plain, sentence=_nothing(), data=frame.frame)
    if frame.wishes.order != "given":
        known.sort(key=lambda place: (-values[place], labels[place]))
    ends = [frame.values(name) if name in frame.y else values for name in ("low", "high")]
    kept = known[: frame.wishes.most]
    more = len(known) - len(kept)
    subtitle = with_notes(plain["subtitle"], more_left_out(more)) if more else plain["subtitle"]
    return intervals(
        **{**plain, "subtitle": subtitle},
        labels=[labels[place] for place in kept],
        by=frame.x or "row",
        values=[float(values[place]) for place in kept],
        low=[float(np.nan_to_num(ends[0][place], nan=values[place])) for place in kept],
        high=[float(np.nan_to_num(ends[1][place], nan=values[place])) for place in kept],
        texts=[numbers.short(float(values[place])) + frame.wishes.unit for place in kept],
        highlight=marked(frame, labels, values),
        reference=next(iter(frame.wishes.references.values()), 0.0),
    )


def _box(frame: Frame, plain: Plain) -> Chart:
    labels, values = frame.labels(), frame.values()
    groups: dict[str, list[float]] = {}
    for label, value in zip(labels, values, strict=True):
        if np.isfinite(value):
            groups.setdefault(label, []).append(float(value))
    if not groups:
        return said(**plain, sentence=_nothing(), data=frame.frame)
    kept = sorted(groups, key=lambda label: (-float(np.median(groups[label])), label))[: frame.wishes.most]
    lit = marked(frame, kept, np.array([np.median(groups[label]) for label in kept]))
    return boxes(
        **plain,
        labels=kept,
        samples=[np.array(groups[label]) for label in kept],
        measure=None,
        by=frame.x or "group",
        highlight=lit[0] if lit else None,
    )


def _histogram(frame: Frame, plain: Plain) -> Chart:
    values = frame.values()
    known = values[np.isfinite(values)]
    if known.size < 2 or float(np.ptp(known)) == 0.0:
        if not known.size:
            return said(**plain, sentence=_nothing(), data=frame.frame)
        same = numbers.plain(float(known[0]))
        told = say("Every figure is {value}, so there is no distribution to draw.", value=same)
        return said(**plain, sentence=told, data=frame.frame)
    marks = [(value, text) for text, value in frame.wishes.references.items()]
    return histogram(**plain, values=known, measure=None, marks=marks)


def _scatter(frame: Frame, plain: Plain) -> Chart:
    if len(frame.y) < 2 and frame.wishes.x is None:
        raise RequestError("The columns of a scatter", ", ".join(frame.y) or "none", "two columns of numbers")
    across, up = (frame.wishes.x or frame.y[0]), (frame.y[1] if frame.wishes.x is None else frame.y[0])
    a = frame.frame[across].to_numpy(dtype=float, na_value=np.nan)
    b = frame.values(up)
    both = np.isfinite(a) & np.isfinite(b)
    if both.sum() < 2:
        told = say("Fewer than two rows have both figures, so there is nothing to draw.")
        return said(**plain, sentence=told, data=frame.frame)
    points = np.column_stack([a[both], b[both]])
    band = None
    if both.sum() >= 10 and float(np.ptp(points[:, 0])) > 0:
        slope, intercept = np.polyfit(points[:, 0], points[:, 1], 1)
        grid = np.linspace(points[:, 0].min(), points[:, 0].max(), 50)
        spread = float(np.std(points[:, 1] - slope * points[:, 0] - intercept))
        around = (grid - points[:, 0].mean()) ** 2 / max(
            float(np.sum((points[:, 0] - points[:, 0].mean()) ** 2)), 1e-300
        )
        half = 1.96 * spread * np.sqrt(1 / len(points) + around)
        fit = slope * grid + intercept
        band = np.column_stack([grid, fit, fit - half, fit + half])
    return scatter(**plain, points=points, band=band, axis_names=(across, up))


def _heat(frame: Frame, plain: Plain, percent: bool = False) -> Chart:
    rows, columns, values = frame.crossed()
    if not np.isfinite(values).any():
        return said(**plain, sentence=_nothing(), data=frame.frame)
    if percent and float(np.nanmin(values)) < 0:
        told = say("Some figures are negative, and shares of a whole cannot be; draw them as they are.")
        return said(**plain, sentence=told, data=frame.frame)
    rows, values = folded(rows, values, 24)
    if percent:
        # What is put together is counted before shares are taken, or they would not be of all.
        columns, turned = folded(columns, values.T, 20)
        values = np.nan_to_num(turned.T)
        values = values / np.maximum(values.sum(axis=1, keepdims=True), 1e-300)
    shares = percent or (float(np.nanmin(values)) >= 0 and float(np.nanmax(values)) <= 1 and frame.wishes.unit == "%")
    known = values[np.isfinite(values)]
    if percent:
        texts = [consistent_rounding.shares(row) if row.sum() else ["–"] * len(row) for row in values]
    else:
        texts = [[_tile(value, shares) for value in row] for row in values]
    return heat(
        **plain,
        rows=rows,
        columns=columns[:20],
        values=values[:, :20],
        texts=texts,
        signed=bool(known.min() < 0 < known.max()),
        by=(frame.x or "row", frame.by or "what"),
    )


def _tile(value: float, share: bool) -> str:
    if not np.isfinite(value):
        return ""
    return numbers.percent(100 * value) if share else numbers.short(value, 2)


def _crosstab(frame: Frame, plain: Plain) -> Chart:
    return _heat(frame, plain, percent=True)


def _triangle(frame: Frame, plain: Plain) -> Chart:
    """Retention: cohorts down, ages across, blank where an age is not reached."""
    rows, columns, values = frame.crossed()
    order = sorted(range(len(columns)), key=lambda j: (len(columns[j]), columns[j]))[:24]
    return heat(
        **plain,
        rows=rows,
        columns=[columns[j] for j in order],
        values=values[:, order],
        texts=[[_tile(value, True) for value in row] for row in values[:, order]],
        by=(frame.x or "cohort", frame.by or "age"),
    )


def _sparks(frame: Frame, plain: Plain) -> Chart:
    labels, parts, grid = frame.crossed()
    if frame.by is None:
        labels, parts, grid = frame.y, frame.labels(), grid.T
    rows = []
    for label, series in list(zip(labels, grid, strict=True))[: frame.wishes.most]:
        known = series[np.isfinite(series)]
        change = say("no figures")
        if known.size > 1 and known[0] > 0:
            pct = 100 * (known[-1] / known[0] - 1)
            first = parts[int(np.flatnonzero(np.isfinite(series))[0])]
            change = say("{size} since {start}", size=numbers.per_cent(pct), start=first)
        elif known.size:
            change = say("from {value}", value=numbers.short(float(known[0])))
        value = numbers.short(float(known[-1])) + frame.wishes.unit if known.size else "–"
        rows.append((label, value, change, series.tolist()))
    return spark_table(**plain, rows=rows, by=frame.x or "row")


def _card(frame: Frame, plain: Plain) -> Chart:
    series = frame.values()
    known = series[np.isfinite(series)]
    if not known.size:
        return said(**plain, sentence=_nothing(), data=frame.frame)
    change = plain["subtitle"]
    if not change and known.size > 1:
        size = float(known[-1] - known[0])
        change = say(
            "{size} since {start}", size=numbers.signed(size, numbers.plain(abs(size))), start=frame.labels()[0]
        )
    return card(
        name=plain["name"],
        label=plain["title"],
        value=numbers.plain(float(known[-1])) + frame.wishes.unit,
        change=change,
        series=series.tolist(),
        source=plain["source"],
    )


def _nothing() -> str:
    return say("All figures are missing, so there is nothing to draw.")


DRAWN: dict[str, Callable[[Frame, Plain], Chart]] = {
    "bars": _bars,
    "box": _box,
    "card": _card,
    "crosstab": _crosstab,
    "diverging": _diverging,
    "dots": _dots,
    "grouped": lambda one, plain: _two(one, plain, stacked=False),
    "heat": _heat,
    "histogram": _histogram,
    "line": _line,
    "scatter": _scatter,
    "shares": lambda one, plain: _two(one, plain, stacked=True, shares=True),
    "sparks": _sparks,
    "stacked": lambda one, plain: _two(one, plain, stacked=True),
    "triangle": _triangle,
}
