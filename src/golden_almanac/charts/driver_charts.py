"""Charts of what goes with an outcome: effects with intervals, the curve along a number, segments with their size."""

from __future__ import annotations

from dataclasses import replace

from ..analysis.drivers import Driver, Found
from ..text import driver_sentences as said
from ..text import names, numbers
from ..text.languages import say
from .chart import Chart, source_line
from .curve import curve
from .intervals import intervals
from .marks import with_notes

_MOST_ROWS = 14


def source_of(found: Found) -> str:
    return source_line(found.outcome.table, found.outcome.n)


def draw_effects(found: Found, title: str) -> Chart | None:
    """All drivers in one chart: a number per standard deviation, the strongest levels of each category."""
    rows = []
    for place, driver in enumerate(found.drivers[:8]):
        told = driver.effects[: 3 if not driver.factor.number else 1]
        for number, effect in enumerate(told):
            name = names.capital(said.factor_name(driver.factor))
            label = name if driver.factor.number else f"{name}: {said.level(effect, driver.factor)}"
            rows.append((label, effect, place == 0 and number == 0))
    if not rows:
        return None
    return _effects(
        found,
        "effects",
        title,
        rows[:_MOST_ROWS],
        say(
            "Effect on {who}, each by itself · numbers per standard deviation, labels against the others",
            who=said.subject(found),
        )
        if found.few
        else say(
            "Effect on {who}, all else equal · numbers per standard deviation, labels against the others",
            who=said.subject(found),
        ),
    )


def draw_driver(found: Found, driver: Driver) -> Chart:
    """One driver: the levels of a category, or the curve along a number."""
    title = f"{said.driver(driver, found)}"
    measure = found.outcome.measure
    if driver.factor.number and driver.shape is not None:
        cut, bend = driver.shape.cut, driver.shape.bend
        place = cut.at if cut is not None else bend
        at = "" if place is None else numbers.plain(place, 6 if cut else 3)
        who, name = names.capital(said.subject(found)), said.factor_name(driver.factor)
        return curve(
            name=f"driver-{driver.factor.name}",
            title=title,
            source=source_of(found),
            subtitle=say(
                "{who}, all else equal, by {name} · bins of about equally many rows, whiskers: 95% range",
                who=who,
                name=name,
            ),
            points=driver.shape.curve,
            measure=measure,
            axis_names=(name, who),
            place=place,
            place_text=""
            if place is None
            else say("cut at {at}", at=at)
            if cut is not None
            else say("bends at about {at}", at=at),
            step=cut is not None,
        )
    ordered = sorted(driver.every, key=lambda effect: (-effect.effect, str(effect.level)))
    if len(ordered) > _MOST_ROWS:
        strong = {id(e) for e in sorted(ordered, key=lambda effect: -abs(effect.effect))[:_MOST_ROWS]}
        ordered = [effect for effect in ordered if id(effect) in strong]
    rows = [(said.level(effect, driver.factor), effect, effect is driver.effects[0]) for effect in ordered]
    return _effects(
        found,
        f"driver-{driver.factor.name}",
        title,
        rows,
        say(
            "Effect of each {part} on {who} against the others, by itself",
            part=said.factor_name(driver.factor),
            who=said.subject(found),
        )
        if found.few
        else say(
            "Effect of each {part} on {who} against the others, all else equal",
            part=said.factor_name(driver.factor),
            who=said.subject(found),
        ),
    )


def _effects(found: Found, name: str, title: str, rows: list, subtitle: str) -> Chart:  # type: ignore[type-arg]
    measure = found.outcome.measure
    return intervals(
        name=name,
        title=title,
        subtitle=with_notes(subtitle, say("whiskers: 95% range · hollow: not adjusted")),
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
    labels = [names.capital(said.conditions(segment)) for segment in found.segments]
    drawn = intervals(
        name="segments",
        title=title,
        source=source_of(found),
        subtitle=say(
            "{who} on rows that took no part in the search · line: all rows, {overall}",
            who=names.capital(said.subject(found)),
            overall=numbers.amount(found.outcome.overall, measure),
        ),
        labels=labels,
        values=[segment.estimate for segment in found.segments],
        low=[segment.low for segment in found.segments],
        high=[segment.high for segment in found.segments],
        texts=[
            say(
                "{value} · {share} of all",
                value=numbers.amount(segment.estimate, measure),
                share=numbers.percent(100 * segment.share),
            )
            for segment in found.segments
        ],
        by="segment",
        highlight=labels[:1],
        reference=found.outcome.overall,
    )
    told = [value for segment in found.segments for value in (segment.value, segment.lift, segment.share)]
    told += [
        cut
        for segment in found.segments
        for part in segment.conditions
        for cut in (part.value,)
        if isinstance(cut, float)
    ]
    return replace(drawn, figures=(found.outcome.overall, *(float(value) for value in told if value is not None)))
