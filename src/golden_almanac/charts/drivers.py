"""Charts of what goes with an outcome: effects with intervals, the curve along a number, segments with their size."""

from __future__ import annotations

from ..core.drivers import Driver, Found
from ..words import drivers as said
from ..words import names, numbers
from .chart import Chart
from .curve import curve
from .intervals import intervals

_MOST_ROWS = 14


def source_of(found: Found) -> str:
    table = found.outcome.table
    where = f" where {table.where}" if table.where else ""
    return f"Source: {table.name}, {numbers.whole(found.outcome.n)} rows{where[:80]}"


def draw_effects(found: Found, title: str) -> Chart | None:
    """All drivers in one chart: a number per standard deviation, the strongest levels of each category."""
    rows = []
    for place, one in enumerate(found.drivers[:8]):
        told = one.effects[: 3 if not one.factor.number else 1]
        for number, effect in enumerate(told):
            label = one.factor.spoken if one.factor.number else f"{one.factor.spoken}: {names.label(effect.level)}"
            rows.append((label, effect, place == 0 and number == 0))
    if not rows:
        return None
    return _effects(
        found,
        "effects",
        title,
        rows[:_MOST_ROWS],
        f"Effect on {said.subject(found)}, all else equal · numbers per standard deviation, labels against the others",
    )


def draw_driver(found: Found, one: Driver) -> Chart:
    """One driver: the levels of a category, or the curve along a number."""
    title = f"{said.driver(one, found)}"
    measure = found.outcome.measure
    if one.factor.number and one.shape is not None:
        cut, bend = one.shape.cut, one.shape.bend
        place = cut.at if cut is not None else bend
        word = "cut at " if cut is not None else "bends at about "
        return curve(
            name=f"driver-{one.factor.name}",
            title=title,
            source=source_of(found),
            subtitle=f"{names.capital(said.subject(found))}, all else equal, by {one.factor.spoken}"
            " · bins of about equally many rows, whiskers: 95% range",
            points=one.shape.curve,
            measure=measure,
            axis_names=(one.factor.spoken, names.capital(said.subject(found))),
            place=place,
            place_text="" if place is None else word + numbers.plain(place, 6 if cut else 3),
            step=cut is not None,
        )
    ordered = sorted(one.every, key=lambda effect: (-effect.effect, str(effect.level)))
    if len(ordered) > _MOST_ROWS:
        strong = {id(e) for e in sorted(ordered, key=lambda effect: -abs(effect.effect))[:_MOST_ROWS]}
        ordered = [effect for effect in ordered if id(effect) in strong]
    rows = [(names.label(effect.level), effect, effect is one.effects[0]) for effect in ordered]
    return _effects(
        found,
        f"driver-{one.factor.name}",
        title,
        rows,
        f"Effect of each {one.factor.spoken} on {said.subject(found)} against the others, all else equal",
    )


def _effects(found: Found, name: str, title: str, rows: list, subtitle: str) -> Chart:  # type: ignore[type-arg]
    measure = found.outcome.measure
    return intervals(
        name=name,
        title=title,
        subtitle=f"{subtitle} · whiskers: 95% range · hollow: not adjusted",
        source=source_of(found),
        labels=[row[0] for row in rows],
        values=[row[1].effect for row in rows],
        low=[row[1].low for row in rows],
        high=[row[1].high for row in rows],
        texts=[numbers.signed(row[1].effect, numbers.difference(row[1].effect, measure)) for row in rows],
        by="factor",
        highlight=[row[0] for row in rows if row[2]],
        beside=[row[1].unadjusted for row in rows],
    )


def draw_segments(found: Found, title: str) -> Chart | None:
    """The segments that share no row: average of the rows that took no part in finding them, range, and size."""
    if not found.segments:
        return None
    measure = found.outcome.measure
    labels = [names.capital(said.conditions(one)) for one in found.segments]
    return intervals(
        name="segments",
        title=title,
        source=source_of(found),
        subtitle=f"{names.capital(said.subject(found))} on rows that took no part in the search · line: all rows, "
        f"{numbers.amount(found.outcome.overall, measure)}",
        labels=labels,
        values=[one.estimate for one in found.segments],
        low=[one.low for one in found.segments],
        high=[one.high for one in found.segments],
        texts=[
            f"{numbers.amount(one.estimate, measure)} · {numbers.percent(100 * one.share)} of all"
            for one in found.segments
        ],
        by="segment",
        highlight=labels[:1],
        reference=found.outcome.overall,
    )
