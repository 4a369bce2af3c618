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
from .marks import with_notes
from .rate_mix_bars import twofold
from .slope import slope
from .small_multiples import multiples

#: Steps of a bridge besides the rest, and panels of slices.
_MOST_STEPS, _MOST_PANELS = 7, 5
#: Letters of a subtitle that fit on its line.
_MOST_LETTERS = 112


def draw_change(explanation: Explanation, headline: str, by: str | None = None) -> Chart | None:
    """Contribution bars of a change, by its most telling dimension unless named; None without one."""
    breakdown = _breakdown(explanation, by)
    if breakdown is None:
        return None
    changes = consistent_rounding.split(
        [part.change for part in breakdown.contributions], explanation.change, explanation.measure
    )
    up, down = changes.gross
    name = names.measure_name(explanation.measure)
    parts = [
        say("Contribution to the change of {measure} by {part}", measure=name, part=names.dimension(breakdown.by)),
        _spans(explanation),
    ]
    if up and down:
        told = {"up": changes.text(up, signed=True), "down": changes.text(down, signed=True)}
        parts.insert(1, say("up {up}, down {down}", **told))
    drawn = bars(
        name=f"change-{breakdown.by}",
        title=headline,
        measure=explanation.measure,
        by=breakdown.by,
        adds_up=True,
        subtitle=_line(*parts),
        source=source_of(explanation.survey),
        labels=[names.label(part.label) for part in breakdown.contributions],
        values=[part.change for part in breakdown.contributions],
        highlight=_highlighted(explanation, breakdown.by) or None,
        order=False,
        signed=True,
    )
    return replace(drawn, figures=_figures(explanation))


def draw_change_as(kind: str, explanation: Explanation, headline: str, by: str | None) -> Chart | None:
    """One of the charts of a change; None where there is nothing of the kind to draw."""
    chart = _DRAWERS[kind](explanation, headline, by)
    return None if chart is None else replace(chart, figures=_figures(explanation))


def _figures(explanation: Explanation) -> tuple[float, ...]:
    """What the title of a chart of a change may say beside what is drawn."""
    found = [explanation.value, explanation.before, explanation.change, explanation.change_pct]
    for by in (explanation.usual, explanation.chance):
        found += [] if by is None else [by.change, by.low, by.high]
    if explanation.factors is not None:
        factors = explanation.factors
        found += [change for _, change in factors.parts]
        found += [factors.volume_now, factors.volume_before, factors.price_now, factors.price_before]
    found += [value for part in explanation.bridge or () for value in (part.change, part.value, part.before)]
    for part in explanation.named:
        found += [part.told, part.excess, part.value, part.baseline, part.weight_now, part.weight_before]
    for breakdown in explanation.breakdowns:
        found += [breakdown.mix, explanation.change - breakdown.mix]
        found += [value for part in breakdown.contributions for value in (part.change, part.share)]
    found += [explanation.smallest.rest_before, explanation.smallest.rest_now]
    return tuple(float(value) for value in found if value is not None and np.isfinite(value))


def _bridge(explanation: Explanation, headline: str, by: str | None) -> Chart | None:
    what, steps = _steps(explanation, by)
    if not steps:
        return None
    start, end = (names.capital(dates.period(span)) for span in (explanation.baseline, explanation.period))
    return bridge(
        name=f"bridge-{explanation.measure.label}",
        title=headline,
        subtitle=say(
            "{measure}, from {baseline} by {what} · bars show changes",
            measure=measured(explanation.measure),
            baseline=dates.period(explanation.baseline),
            what=what,
        ),
        source=source_of(explanation.survey),
        ends=((start, explanation.before), (end, explanation.value)),
        steps=steps,
        measure=explanation.measure,
        by=what,
    )  # fmt: skip


def _steps(explanation: Explanation, by: str | None) -> tuple[str, list[tuple[str, float]]]:
    """What a change is bridged by, and the steps, which add up to it: components where it is a sum of columns, else
    volume, mix and price, else the slices named, else the largest contributions."""
    if by is None and explanation.bridge:
        return say("component"), [
            (say("rows that do not add up") if part.column is None else names.column(part.column), part.change)
            for part in explanation.bridge
        ]
    if by is None and explanation.factors is not None and len(explanation.factors.parts) > 1:
        said = factor_names(explanation)
        return say("what it went with"), [(said[name], change) for name, change in explanation.factors.parts]
    # Slices share no rows only where they are of one dimension.
    dimensions = {column for part in explanation.named for column, _ in part.where.conditions}
    if by is None and explanation.named and len(dimensions) == 1 and explanation.measure.additive:
        found = [(names.slice_(part.where), part.change) for part in explanation.named]
        return say("what stands out"), [
            *found,
            (say("all else"), explanation.change - sum(change for _, change in found)),
        ]
    breakdown = _breakdown(explanation, by)
    if breakdown is None:
        return "", []
    parts = [(names.label(part.label), part.change) for part in breakdown.contributions]
    rest = parts[_MOST_STEPS:]
    more = [(other(len(rest)), sum(change for _, change in rest))] if rest else []
    return names.dimension(breakdown.by), [*parts[:_MOST_STEPS], *more]


def _slope(explanation: Explanation, headline: str, by: str | None) -> Chart | None:
    breakdown = _breakdown(explanation, by)
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
        subtitle=say("{measure} by {part}", measure=measured(explanation.measure), part=names.dimension(breakdown.by)),
        source=source_of(explanation.survey),
        ends=(dates.period(explanation.baseline), dates.period(explanation.period)),
        lines=lines,
        highlight=_highlighted(explanation, breakdown.by),
        measure=explanation.measure,
        by=breakdown.by,
    )


def _rate_mix(explanation: Explanation, headline: str, by: str | None) -> Chart | None:
    if not explanation.measure.bottom or not explanation.breakdowns:
        return None
    breakdown = _breakdown(explanation, by) if by else max(explanation.breakdowns, key=lambda b: (abs(b.mix), b.by))
    assert breakdown is not None
    return twofold(
        name=f"rate-mix-{breakdown.by}",
        title=headline,
        subtitle=_line(
            say(
                "Parts of the change of {measure} by {part}",
                measure=names.measure_name(explanation.measure),
                part=names.dimension(breakdown.by),
            ),
            _spans(explanation),
        ),
        source=source_of(explanation.survey),
        rows=[(names.label(part.label), part.rate or 0.0, part.mix or 0.0) for part in breakdown.contributions],
        parts=(say("within (rate)"), say("through weights (mix)")),
        measure=explanation.measure,
        by=breakdown.by,
    )


def _series(explanation: Explanation, headline: str, by: str | None) -> Chart | None:
    timeline = explanation.survey.timeline
    assert timeline is not None
    if explanation.baseline.name or explanation.baseline.foretold:
        # A plan is of the same days: there is no path that leads from it.
        return None
    values = _values(explanation, explanation.where.conditions)
    if values is None:
        return None
    return line(
        name=f"series-{explanation.measure.label}",
        title=headline,
        subtitle=_line(_by_grain(measured(explanation.measure, explanation.where), timeline), _spans(explanation)),
        source=source_of(explanation.survey),
        timeline=timeline,
        measure=explanation.measure,
        offset=timeline.complete.start,
        series=[(names.capital(names.measure_name(explanation.measure)), values)],
        spans=_shaded(explanation),
        # Said of the picture alone: native charts have no shades.
        notes=(say("both periods shaded"),),
        alternative=described("Line chart", headline),
    )


def _slices(explanation: Explanation, headline: str, by: str | None) -> Chart | None:
    timeline = explanation.survey.timeline
    assert timeline is not None
    named = () if explanation.baseline.name or explanation.baseline.foretold else explanation.named[:_MOST_PANELS]
    panels = []
    for part in named:
        values = _values(explanation, (*explanation.where.conditions, *part.where.conditions))
        if values is not None:
            panels.append((names.slice_(part.where), values))
    whole = _values(explanation, explanation.where.conditions)
    if not panels or whole is None:
        return None
    highlight = len(panels)
    if explanation.measure.additive and len({column for part in named for column, _ in part.where.conditions}) == 1:
        rest = whole - np.sum([np.nan_to_num(values) for _, values in panels], axis=0)
        panels.append((say("all else"), rest))
    else:
        who = names.capital(names.of(explanation.measure, explanation.where))
        panels.append((say("{who}, whole", who=who), whole))
    return multiples(
        name=f"slices-{explanation.measure.label}",
        title=headline,
        subtitle=with_notes(
            _line(_by_grain(measured(explanation.measure), timeline), _spans(explanation)), say("both periods shaded")
        ),
        source=source_of(explanation.survey),
        timeline=timeline,
        offset=timeline.complete.start,
        series=panels,
        spans=_shaded(explanation),
        measure=explanation.measure,
        highlight=highlight,
    )


def _values(
    explanation: Explanation, conditions: tuple[tuple[str, str | None], ...]
) -> np.ndarray[tuple[int], np.dtype[np.float64]] | None:
    """The measure of a slice over the complete periods; None for fewer than three."""
    survey, timeline = explanation.survey, explanation.survey.timeline
    assert timeline is not None
    if timeline.complete_count < 3 or explanation.measure.kind == "other":
        return None
    values = survey.kept(Only(conditions)).cells(PERIOD).value(explanation.measure)[timeline.complete]
    # Where a slice has no rows there is a gap, not a nought.
    return values if np.isfinite(values).any() else None


def _shaded(explanation: Explanation) -> list[tuple[float, float]]:
    """The places of both periods, as far as they lie within the complete ones."""
    timeline = explanation.survey.timeline
    assert timeline is not None
    found = []
    for span in (explanation.baseline, explanation.period):
        first, last = (int(place) for place in timeline.places(np.array([span.start, span.end])))
        first, last = max(first, timeline.complete.start), min(last, timeline.complete.stop - 1)
        if first <= last:
            found.append((float(first), float(last + 1)))
    return found


def _breakdown(explanation: Explanation, by: str | None) -> Breakdown | None:
    """The dimension asked for, else the first slice's, else the most telling one."""
    if not explanation.breakdowns:
        return None
    wanted = by or (explanation.named[0].where.conditions[0][0] if explanation.named else None)
    return next((b for b in explanation.breakdowns if b.by == wanted), explanation.breakdowns[0])


def _highlighted(explanation: Explanation, by: str) -> list[str]:
    return [names.label(label) for part in explanation.named for column, label in part.where.conditions if column == by]


def _line(*parts: str) -> str:
    """A subtitle; the headline names both periods too, so they are the part to go where the line is too short."""
    whole = " · ".join(parts)
    return whole if len(whole) <= _MOST_LETTERS else " · ".join(parts[:-1])


def _spans(explanation: Explanation) -> str:
    return say(
        "{period} against {baseline}",
        period=dates.period(explanation.period),
        baseline=dates.period(explanation.baseline),
    )


def _by_grain(measure: str, timeline: Timeline) -> str:
    return say("{measure} per {grain}", measure=measure, grain=names.grain_noun(timeline.grain.value))


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
