"""Any frame as any kind of chart: what people draw by themselves, in the house look.

Each kind takes the first columns that fit unless columns are named. What cannot be drawn becomes a sentence, never an
empty frame and never an exception; a request that makes no sense is refused.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from ..core.errors import ColumnError, RequestError
from ..core.series.regression import Floats
from ..words import numbers
from .bars import bars
from .boxes import boxes
from .chart import Chart
from .heat import heat
from .histogram import histogram
from .intervals import intervals
from .palette import Palette, checked
from .paths import paths
from .said import said
from .scatter import scatter
from .sparks import card, spark_table
from .stacked import two_way

#: More rows or labels than this are put together as "other", or said to be left out.
_MOST = 12


@dataclass(frozen=True, slots=True, kw_only=True)
class Wishes:
    """What may be set by hand: columns, order (value, label or given), number of categories, colours by category, unit,
    highlights (labels, or "above average"), reference lines, events and size in inches."""

    title: str = ""
    subtitle: str = ""
    source: str = ""
    x: str | None = None
    y: Sequence[str] | None = None
    by: str | None = None
    order: str = "value"
    most: int = _MOST
    colours: Mapping[str, str] = field(default_factory=dict)
    unit: str = ""
    highlight: Sequence[str] | str | None = None
    references: Mapping[str, float] = field(default_factory=dict)
    events: Mapping[str, str] = field(default_factory=dict)
    size: tuple[float, float] | None = None
    partial_last: bool = False
    forecast_from: str | None = None


def draw_frame(frame: Any, kind: str, wishes: Wishes) -> Chart:
    """The chart. Raises RequestError for an unknown kind or wish, ColumnError for columns that are not there."""
    if kind not in DRAWN:
        raise RequestError("The kind of chart", kind, "one of " + ", ".join(sorted(DRAWN)))
    if wishes.order not in ("value", "label", "given"):
        raise RequestError("The order", wishes.order, "one of value, label, given")
    for colour in wishes.colours.values():
        checked(colour)
    named = [name for name in (wishes.x, wishes.by, *(wishes.y or ())) if name is not None]
    for name in named:
        if name not in frame.columns:
            raise ColumnError.unknown(name, [str(column) for column in frame.columns], "the frame")
    title = wishes.title or f"{kind} chart"
    plain: Plain = {"name": f"{kind}-{_slug(title)}", "title": title, "subtitle": wishes.subtitle}
    plain["source"] = wishes.source
    if len(frame) == 0:
        return said(**plain, sentence="There are no rows to draw.")
    made = DRAWN[kind](_Frame(frame, wishes), plain)
    if wishes.size is not None:
        width, height = wishes.size
        if not (2 <= width <= 40 and 1 <= height <= 40):
            raise RequestError("The size", wishes.size, "two numbers of inches, 2 to 40 wide and 1 to 40 high")
        made.figure.set_size_inches(width, height)
    return made


def _slug(text: str) -> str:
    return "".join(letter if letter.isalnum() else "-" for letter in text.lower())[:40]


class _Frame:
    """A frame with its columns found by role: labels, and figures (finite or NaN)."""

    def __init__(self, frame: Any, wishes: Wishes) -> None:
        import pandas as pd

        self.frame, self.wishes = frame.reset_index(drop=True), wishes
        numeric = [
            str(name)
            for name in frame.columns
            if pd.api.types.is_numeric_dtype(frame[name]) and not pd.api.types.is_bool_dtype(frame[name])
        ]
        others = [str(name) for name in frame.columns if str(name) not in numeric]
        self.x = wishes.x or (others[0] if others else None)
        self.y = list(wishes.y or [name for name in numeric if name not in (self.x, wishes.by)])
        self.by = wishes.by
        for name in self.y:
            if name not in numeric:
                raise ColumnError(name, f"The column {name!r} holds no numbers to draw.", "Name one that does.")

    def labels(self, name: str | None = None) -> list[str]:
        name = name or self.x
        if name is None:
            return [str(place + 1) for place in range(len(self.frame))]
        return [_label(value) for value in self.frame[name].tolist()]

    def values(self, name: str | None = None) -> Floats:
        if not self.y:
            raise RequestError("The frame", "no column of numbers", "one with figures to draw")
        column = self.frame[name or self.y[0]].to_numpy(dtype=float, na_value=np.nan)
        return np.where(np.isfinite(column), column, np.nan)

    def summed(self) -> tuple[list[str], Floats]:
        """Labels once each with their sums, in the order wished; labels without any figure are left out."""
        totals: dict[str, float] = {}
        for label, value in zip(self.labels(), self.values(), strict=True):
            if np.isfinite(value):
                totals[label] = totals.get(label, 0.0) + float(value)
        pairs = list(totals.items())
        if self.wishes.order == "value":
            pairs.sort(key=lambda pair: (-pair[1], pair[0]))
        elif self.wishes.order == "label":
            pairs.sort()
        return [label for label, _ in pairs], np.array([value for _, value in pairs])

    def crossed(self) -> tuple[list[str], list[str], Floats]:
        """Sums by two columns of labels; or the columns of figures beside each other where there is only one."""
        rows = self.labels()
        order = list(dict.fromkeys(rows))
        if self.by is None:
            columns = self.y
            grid = np.full((len(order), len(columns)), np.nan)
            for j, name in enumerate(columns):
                for label, value in zip(rows, self.values(name), strict=True):
                    _add(grid, order.index(label), j, value)
            return order, columns, grid
        parts = self.labels(self.by)
        kept = list(dict.fromkeys(parts))
        grid = np.full((len(order), len(kept)), np.nan)
        for label, part, value in zip(rows, parts, self.values(), strict=True):
            _add(grid, order.index(label), kept.index(part), value)
        return order, kept, grid


def _add(grid: Floats, i: int, j: int, value: float) -> None:
    if np.isfinite(value):
        grid[i, j] = value if not np.isfinite(grid[i, j]) else grid[i, j] + value


def _label(value: Any) -> str:
    """A label as shown: one line, no control characters; missing is said."""
    if value is None or value != value:
        return "(no value)"
    text = "".join(letter if letter.isprintable() else " " for letter in str(value)[:400])
    return " ".join(text.split()) or "(blank)"


Plain = dict[str, Any]


def _marked(one: _Frame, labels: Sequence[str], values: Floats) -> list[str]:
    wish = one.wishes.highlight
    if wish is None:
        return []
    if wish == "above average":
        return [label for label, value in zip(labels, values, strict=True) if value > float(np.nanmean(values))]
    return [wish] if isinstance(wish, str) else list(wish)


def _bars(one: _Frame, plain: Plain, signed: bool = False) -> Chart:
    labels, values = one.summed()
    if not labels:
        return said(**plain, sentence="All figures are missing, so there is nothing to draw.", data=one.frame)
    marked = _marked(one, labels, values)
    reference = next(iter(one.wishes.references.items()), None)
    return bars(
        **plain,
        labels=labels,
        values=values.tolist(),
        highlight=marked,
        measure=None,
        by=one.x or "row",
        adds_up=not signed and bool((values >= 0).all()),
        order=one.wishes.order == "value" and not signed,
        reference=reference,
        signed=signed,
        most=one.wishes.most,
        suffix=one.wishes.unit,
    )


def _diverging(one: _Frame, plain: Plain) -> Chart:
    return _bars(one, plain, signed=True)


def _two(one: _Frame, plain: Plain, stacked: bool, shares: bool = False) -> Chart:
    rows, parts, values = one.crossed()
    if not np.isfinite(values).any():
        return said(**plain, sentence="All figures are missing, so there is nothing to draw.", data=one.frame)
    if stacked and float(np.nanmin(values)) < 0:
        worst = rows[int(np.argwhere(values == np.nanmin(values))[0][0])]
        return said(
            **plain,
            data=one.frame,
            sentence=(
                f"{worst} holds a negative figure, and parts of a whole cannot be negative; draw them side by side."
            ),
        )
    rows, values = _folded(rows, values, one.wishes.most)
    columns, flipped = _folded(parts, values.T, 8)
    return two_way(
        **plain,
        rows=rows,
        parts=columns,
        values=flipped.T,
        by=(one.x or "row", one.by or "what"),
        stacked=stacked,
        shares=shares,
        colours=one.wishes.colours,
        suffix=one.wishes.unit,
    )


def _folded(labels: list[str], values: Floats, most: int) -> tuple[list[str], Floats]:
    """The largest labels, the rest as "other (n)"."""
    if len(labels) <= most:
        return labels, values
    order = np.argsort(-np.nansum(np.abs(values), axis=1), kind="stable")
    kept, rest = sorted(order[: most - 1].tolist()), order[most - 1 :]
    other = np.nansum(values[rest], axis=0)
    return [*(labels[i] for i in kept), f"other ({rest.size})"], np.vstack([values[kept], other])


def _line(one: _Frame, plain: Plain) -> Chart:
    if one.by is not None:
        labels, parts, grid = one.crossed()
        series = [(part, grid[:, j]) for j, part in enumerate(parts)]
    else:
        labels = one.labels()
        shown = [name for name in one.y if name not in ("low", "high")]
        series = [(name, one.values(name)) for name in shown or one.y]
    if not any(np.isfinite(values).any() for _, values in series):
        return said(**plain, sentence="All figures are missing, so there is nothing to draw.", data=one.frame)
    if len(labels) < 2:
        value = next(float(v) for _, values in series for v in values if np.isfinite(v))
        return said(**plain, data=one.frame, sentence=f"There is a single point, {labels[0]}: {numbers.plain(value)}.")
    marked = [one.wishes.highlight] if isinstance(one.wishes.highlight, str) else list(one.wishes.highlight or ())
    if len(series) > 8:
        series = sorted(series, key=lambda pair: -float(np.nansum(np.abs(pair[1]))))[:8]
        plain = {**plain, "subtitle": f"{plain['subtitle']} · the largest eight drawn".lstrip(" ·")}
    series.sort(key=lambda pair: pair[0] not in marked)
    band = (one.values("low"), one.values("high")) if {"low", "high"} <= set(one.y) and one.by is None else None
    ahead = one.wishes.forecast_from
    return paths(
        **plain,
        labels=labels,
        series=series,
        by=one.x or "place",
        band=band,
        forecast_from=labels.index(ahead) if ahead in labels else None,
        events=[(labels.index(place), text) for place, text in one.wishes.events.items() if place in labels],
        references=list(one.wishes.references.items()),
        partial_last=one.wishes.partial_last,
        palette=Palette(one.wishes.colours) if one.wishes.colours else None,
    )


def _dots(one: _Frame, plain: Plain) -> Chart:
    labels, values = one.labels(), one.values()
    known = [place for place in range(len(labels)) if np.isfinite(values[place])]
    if not known:
        return said(**plain, sentence="All figures are missing, so there is nothing to draw.", data=one.frame)
    if one.wishes.order != "given":
        known.sort(key=lambda place: (-values[place], labels[place]))
    ends = [one.values(name) if name in one.y else values for name in ("low", "high")]
    kept = known[: one.wishes.most]
    more = len(known) - len(kept)
    subtitle = f"{plain['subtitle']} · {more} more not shown".lstrip(" ·") if more else plain["subtitle"]
    return intervals(
        **{**plain, "subtitle": subtitle},
        labels=[labels[place] for place in kept],
        by=one.x or "row",
        values=[float(values[place]) for place in kept],
        low=[float(np.nan_to_num(ends[0][place], nan=values[place])) for place in kept],
        high=[float(np.nan_to_num(ends[1][place], nan=values[place])) for place in kept],
        texts=[numbers.short(float(values[place])) + one.wishes.unit for place in kept],
        highlight=_marked(one, labels, values),
        reference=next(iter(one.wishes.references.values()), 0.0),
    )


def _box(one: _Frame, plain: Plain) -> Chart:
    labels, values = one.labels(), one.values()
    groups: dict[str, list[float]] = {}
    for label, value in zip(labels, values, strict=True):
        if np.isfinite(value):
            groups.setdefault(label, []).append(float(value))
    if not groups:
        return said(**plain, sentence="All figures are missing, so there is nothing to draw.", data=one.frame)
    kept = sorted(groups, key=lambda label: (-float(np.median(groups[label])), label))[: one.wishes.most]
    marked = _marked(one, kept, np.array([np.median(groups[label]) for label in kept]))
    return boxes(
        **plain,
        labels=kept,
        samples=[np.array(groups[label]) for label in kept],
        measure=None,
        by=one.x or "group",
        highlight=marked[0] if marked else None,
    )


def _histogram(one: _Frame, plain: Plain) -> Chart:
    values = one.values()
    known = values[np.isfinite(values)]
    if known.size < 2 or float(np.ptp(known)) == 0.0:
        told = "All figures are missing" if not known.size else f"Every figure is {numbers.plain(float(known[0]))}"
        return said(**plain, sentence=f"{told}, so there is no distribution to draw.", data=one.frame)
    marks = [(value, text) for text, value in one.wishes.references.items()]
    return histogram(**plain, values=known, measure=None, marks=marks)


def _scatter(one: _Frame, plain: Plain) -> Chart:
    if len(one.y) < 2 and one.wishes.x is None:
        raise RequestError("The columns of a scatter", ", ".join(one.y) or "none", "two columns of numbers")
    across, up = (one.wishes.x or one.y[0]), (one.y[1] if one.wishes.x is None else one.y[0])
    a = one.frame[across].to_numpy(dtype=float, na_value=np.nan)
    b = one.values(up)
    both = np.isfinite(a) & np.isfinite(b)
    if both.sum() < 2:
        return said(
            **plain, sentence="Fewer than two rows have both figures, so there is nothing to draw.", data=one.frame
        )
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


def _heat(one: _Frame, plain: Plain, percent: bool = False) -> Chart:
    rows, columns, values = one.crossed()
    if not np.isfinite(values).any():
        return said(**plain, sentence="All figures are missing, so there is nothing to draw.", data=one.frame)
    if percent and float(np.nanmin(values)) < 0:
        told = "Some figures are negative, and shares of a whole cannot be; draw them as they are."
        return said(**plain, sentence=told, data=one.frame)
    if percent:
        values = np.nan_to_num(values) / np.maximum(np.nansum(values, axis=1, keepdims=True), 1e-300)
    rows, values = _folded(rows, values, 24)
    shares = percent or (float(np.nanmin(values)) >= 0 and float(np.nanmax(values)) <= 1 and one.wishes.unit == "%")
    known = values[np.isfinite(values)]
    return heat(
        **plain,
        rows=rows,
        columns=columns[:20],
        values=values[:, :20],
        written=(lambda value: numbers.percent(100 * value)) if shares else (lambda value: numbers.short(value, 2)),
        signed=bool(known.min() < 0 < known.max()),
        by=(one.x or "row", one.by or "what"),
    )


def _crosstab(one: _Frame, plain: Plain) -> Chart:
    return _heat(one, plain, percent=True)


def _triangle(one: _Frame, plain: Plain) -> Chart:
    """Retention: cohorts down, ages across, blank where an age is not reached."""
    rows, columns, values = one.crossed()
    order = sorted(range(len(columns)), key=lambda j: (len(columns[j]), columns[j]))
    return heat(
        **plain,
        rows=rows,
        columns=[columns[j] for j in order][:24],
        values=values[:, order][:, :24],
        written=lambda value: numbers.percent(100 * value),
        by=(one.x or "cohort", one.by or "age"),
    )


def _sparks(one: _Frame, plain: Plain) -> Chart:
    labels, parts, grid = one.crossed()
    if one.by is None:
        labels, parts, grid = one.y, one.labels(), grid.T
    rows = []
    for label, series in list(zip(labels, grid, strict=True))[: one.wishes.most]:
        known = series[np.isfinite(series)]
        change = "no figures"
        if known.size > 1 and known[0] > 0:
            pct = 100 * (known[-1] / known[0] - 1)
            change = (
                f"{numbers.signed(pct, numbers.percent(pct))} since "
                f"{parts[int(np.flatnonzero(np.isfinite(series))[0])]}"
            )
        elif known.size:
            change = f"from {numbers.short(float(known[0]))}"
        value = numbers.short(float(known[-1])) + one.wishes.unit if known.size else "–"
        rows.append((label, value, change, series.tolist()))
    return spark_table(**plain, rows=rows, by=one.x or "row")


def _card(one: _Frame, plain: Plain) -> Chart:
    series = one.values()
    known = series[np.isfinite(series)]
    if not known.size:
        return said(**plain, sentence="All figures are missing, so there is nothing to show.", data=one.frame)
    change = plain["subtitle"]
    if not change and known.size > 1:
        size = float(known[-1] - known[0])
        change = f"{numbers.signed(size, numbers.plain(abs(size)))} since {one.labels()[0]}"
    return card(
        name=plain["name"],
        label=plain["title"],
        value=numbers.plain(float(known[-1])) + one.wishes.unit,
        change=change,
        series=series.tolist(),
        source=plain["source"],
    )


DRAWN: dict[str, Callable[[_Frame, Plain], Chart]] = {
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
