"""The charts of an explained change: contributions, bridge, slope, rate and mix, the series around it, its slices."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from ..aggregation import PERIOD, Only
from ..analysis.change import Breakdown, Explanation
from ..tables import Timeline
from ..text import consistent_rounding, dates, names
from ..text.change_sentences import factor_names
from ..text.languages import say
from .bars import bars
from .bridge import bridge
from .chart import Chart, described, measured, other, source_of
from .line_chart import line
from .rate_mix_bars import twofold
from .slope import slope
from .small_multiples import multiples

#: Steps of a bridge besides the rest, and panels of slices.
_MOST_STEPS, _MOST_PANELS = 7, 5
#: Letters of a subtitle that fit on its line.
_MOST_LETTERS = 112


def draw_change(one: Explanation, headline: str, by: str | None = None) -> Chart | None:
    """Contribution bars of a change, by its most telling dimension unless named; None without one."""
    breakdown = _breakdown(one, by)
    if breakdown is None:
        return None
    changes = consistent_rounding.split([part.change for part in breakdown.contributions], one.change, one.measure)
    up, down = changes.gross
    name = names.measure_name(one.measure)
    parts = [
        say("Contribution to the change of {measure} by {part}", measure=name, part=names.dimension(breakdown.by)),
        _spans(one),
    ]
    if up and down:
        told = {"up": changes.text(up, signed=True), "down": changes.text(down, signed=True)}
        parts.insert(1, say("up {up}, down {down}", **told))
    drawn = bars(
        name=f"change-{breakdown.by}",
        title=headline,
        measure=one.measure,
        by=breakdown.by,
        adds_up=True,
        subtitle=_line(*parts),
        source=source_of(one.survey),
        labels=[names.label(part.label) for part in breakdown.contributions],
        values=[part.change for part in breakdown.contributions],
        highlight=_highlighted(one, breakdown.by) or None,
        order=False,
        signed=True,
    )
    return replace(drawn, figures=_figures(one))


def draw_change_as(kind: str, one: Explanation, headline: str, by: str | None) -> Chart | None:
    """One of the charts of a change; None where there is nothing of the kind to draw."""
    chart = _DRAWERS[kind](one, headline, by)
    return None if chart is None else replace(chart, figures=_figures(one))


def _figures(one: Explanation) -> tuple[float, ...]:
    """What the title of a chart of a change may say beside what is drawn."""
    found = [one.value, one.before, one.change, one.change_pct]
    for by in (one.usual, one.chance):
        found += [] if by is None else [by.change, by.low, by.high]
    if one.factors is not None:
        factors = one.factors
        found += [change for _, change in factors.parts]
        found += [factors.volume_now, factors.volume_before, factors.price_now, factors.price_before]
    found += [value for part in one.bridge or () for value in (part.change, part.value, part.before)]
    for part in one.named:
        found += [part.told, part.excess, part.value, part.baseline, part.weight_now, part.weight_before]
    for breakdown in one.breakdowns:
        found += [breakdown.mix, one.change - breakdown.mix]
        found += [contribution.share for contribution in breakdown.contributions]
    found += [one.smallest.rest_before, one.smallest.rest_now]
    return tuple(float(value) for value in found if value is not None and np.isfinite(value))


def _bridge(one: Explanation, headline: str, by: str | None) -> Chart | None:
    what, steps = _steps(one, by)
    if not steps:
        return None
    start, end = (names.capital(dates.period(span)) for span in (one.baseline, one.period))
    return bridge(
        name=f"bridge-{one.measure.label}",
        title=headline,
        subtitle=say(
            "{measure}, from {baseline} by {what} · bars show changes",
            measure=measured(one.measure),
            baseline=dates.period(one.baseline),
            what=what,
        ),
        source=source_of(one.survey),
        ends=((start, one.before), (end, one.value)),
        steps=steps,
        measure=one.measure,
        by=what,
    )  # fmt: skip


def _steps(one: Explanation, by: str | None) -> tuple[str, list[tuple[str, float]]]:
    """What a change is bridged by, and the steps, which add up to it: components where it is a sum of columns, else
    volume, mix and price, else the slices named, else the largest contributions."""
    if by is None and one.bridge:
        return say("component"), [
            (say("rows that do not add up") if part.column is None else names.column(part.column), part.change)
            for part in one.bridge
        ]
    if by is None and one.factors is not None and len(one.factors.parts) > 1:
        said = factor_names(one)
        return say("what it went with"), [(said[name], change) for name, change in one.factors.parts]
    # Slices share no rows only where they are of one dimension.
    dimensions = {column for part in one.named for column, _ in part.where.conditions}
    if by is None and one.named and len(dimensions) == 1 and one.measure.additive:
        found = [(names.slice_(part.where), part.change) for part in one.named]
        return say("what stands out"), [*found, (say("all else"), one.change - sum(change for _, change in found))]
    breakdown = _breakdown(one, by)
    if breakdown is None:
        return "", []
    parts = [(names.label(part.label), part.change) for part in breakdown.contributions]
    rest = parts[_MOST_STEPS:]
    more = [(other(len(rest)), sum(change for _, change in rest))] if rest else []
    return names.dimension(breakdown.by), [*parts[:_MOST_STEPS], *more]


def _slope(one: Explanation, headline: str, by: str | None) -> Chart | None:
    breakdown = _breakdown(one, by)
    if breakdown is None:
        return None
    lines = [
        (names.label(part.label), float(part.baseline), float(part.value))
        for part in breakdown.contributions
        if part.baseline is not None and part.value is not None
    ]
    if len(lines) < 2:
        return None
    return slope(
        name=f"slope-{breakdown.by}",
        title=headline,
        subtitle=say("{measure} by {part}", measure=measured(one.measure), part=names.dimension(breakdown.by)),
        source=source_of(one.survey),
        ends=(dates.period(one.baseline), dates.period(one.period)),
        lines=lines,
        highlight=_highlighted(one, breakdown.by),
        measure=one.measure,
        by=breakdown.by,
    )


def _rate_mix(one: Explanation, headline: str, by: str | None) -> Chart | None:
    if not one.measure.bottom or not one.breakdowns:
        return None
    breakdown = _breakdown(one, by) if by else max(one.breakdowns, key=lambda b: (abs(b.mix), b.by))
    assert breakdown is not None
    return twofold(
        name=f"rate-mix-{breakdown.by}",
        title=headline,
        subtitle=_line(
            say(
                "Parts of the change of {measure} by {part}",
                measure=names.measure_name(one.measure),
                part=names.dimension(breakdown.by),
            ),
            _spans(one),
        ),
        source=source_of(one.survey),
        rows=[(names.label(part.label), part.rate or 0.0, part.mix or 0.0) for part in breakdown.contributions],
        parts=(say("within (rate)"), say("through weights (mix)")),
        measure=one.measure,
        by=breakdown.by,
    )


def _series(one: Explanation, headline: str, by: str | None) -> Chart | None:
    timeline = one.survey.timeline
    assert timeline is not None
    values = _values(one, one.where.conditions)
    if values is None:
        return None
    return line(
        name=f"series-{one.measure.label}",
        title=headline,
        subtitle=_line(_shaded_measure(measured(one.measure, one.where), timeline), _spans(one)),
        source=source_of(one.survey),
        timeline=timeline,
        measure=one.measure,
        offset=timeline.complete.start,
        series=[(names.capital(names.measure_name(one.measure)), values)],
        spans=_shaded(one),
        alternative=described("Line chart", headline),
    )


def _slices(one: Explanation, headline: str, by: str | None) -> Chart | None:
    timeline = one.survey.timeline
    assert timeline is not None
    named = one.named[:_MOST_PANELS]
    panels = []
    for part in named:
        values = _values(one, (*one.where.conditions, *part.where.conditions))
        if values is not None:
            panels.append((names.slice_(part.where), values))
    whole = _values(one, one.where.conditions)
    if not panels or whole is None:
        return None
    highlight = len(panels)
    if one.measure.additive and len({column for part in named for column, _ in part.where.conditions}) == 1:
        rest = whole - np.sum([np.nan_to_num(values) for _, values in panels], axis=0)
        panels.append((say("all else"), rest))
    else:
        who = names.capital(names.of(one.measure, one.where))
        panels.append((say("{who}, whole", who=who), whole))
    return multiples(
        name=f"slices-{one.measure.label}",
        title=headline,
        subtitle=_line(_shaded_measure(measured(one.measure), timeline), _spans(one)),
        source=source_of(one.survey),
        timeline=timeline,
        offset=timeline.complete.start,
        series=panels,
        spans=_shaded(one),
        measure=one.measure,
        highlight=highlight,
    )


def _values(
    one: Explanation, conditions: tuple[tuple[str, str | None], ...]
) -> np.ndarray[tuple[int], np.dtype[np.float64]] | None:
    """The measure of a slice over the complete periods; None for fewer than three."""
    survey, timeline = one.survey, one.survey.timeline
    assert timeline is not None
    if timeline.complete_count < 3 or one.measure.kind == "other":
        return None
    values = survey.kept(Only(conditions)).cells(PERIOD).value(one.measure)[timeline.complete]
    # Where a slice has no rows there is a gap, not a nought.
    return values if np.isfinite(values).any() else None


def _shaded(one: Explanation) -> list[tuple[float, float]]:
    """The places of both periods, as far as they lie within the complete ones."""
    timeline = one.survey.timeline
    assert timeline is not None
    found = []
    for span in (one.baseline, one.period):
        first, last = (int(place) for place in timeline.places(np.array([span.start, span.end])))
        first, last = max(first, timeline.complete.start), min(last, timeline.complete.stop - 1)
        if first <= last:
            found.append((float(first), float(last + 1)))
    return found


def _breakdown(one: Explanation, by: str | None) -> Breakdown | None:
    """The dimension asked for, else the first slice's, else the most telling one."""
    if not one.breakdowns:
        return None
    wanted = by or (one.named[0].where.conditions[0][0] if one.named else None)
    return next((b for b in one.breakdowns if b.by == wanted), one.breakdowns[0])


def _highlighted(one: Explanation, by: str) -> list[str]:
    return [names.label(label) for part in one.named for column, label in part.where.conditions if column == by]


def _line(*parts: str) -> str:
    """A subtitle; the headline names both periods too, so they are the part to go where the line is too short."""
    whole = " · ".join(parts)
    return whole if len(whole) <= _MOST_LETTERS else " · ".join(parts[:-1])


def _spans(one: Explanation) -> str:
    return say("{period} against {baseline}", period=dates.period(one.period), baseline=dates.period(one.baseline))


def _shaded_measure(measure: str, timeline: Timeline) -> str:
    grain = names.grain_noun(timeline.grain.value)
    return say("{measure} per {grain}, both periods shaded", measure=measure, grain=grain)


_DRAWERS: dict[str, Callable[[Explanation, str, str | None], Chart | None]] = {
    "contributions": draw_change,
    "bridge": _bridge,
    "slope": _slope,
    "rate and mix": _rate_mix,
    "series": _series,
    "slices": _slices,
}
#: The kinds of chart that a change can be drawn as.
CHANGE_CHARTS = tuple(_DRAWERS)
