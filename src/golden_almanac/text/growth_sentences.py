"""Growth against variability in sentences that recommend nothing."""

from __future__ import annotations

from ..analysis.growth_and_falls import Growth, GrowthTable
from . import dates, names, numbers
from .languages import say
from .summary import Summary, fit
from .text_tables import TextTable


def growth_summary(found: GrowthTable) -> Summary:
    """Who grew fastest and slowest, whose growth varied most, the worst fall."""
    told = [one for one in found.parts if one.rate is not None]
    who = names.measure_name(found.measure)
    span = dates.from_to(dates.period(found.first), dates.period(found.last))
    if not told:
        return fit(say("No growth can be told of {who}: its first year is nought.", who=who), [], [])
    ranked = sorted(told, key=lambda one: -(one.rate or 0.0))
    top, low = ranked[0], ranked[-1]
    headline = say(
        "{who} of {top} grew fastest ({rate} a year), of {low} slowest ({least}); in all {whole}, {span}.",
        who=names.capital(who),
        top=names.label(top.label),
        rate=_rate(top.rate),
        low=names.label(low.label),
        least=_rate(low.rate),
        whole=_rate(found.whole.rate),
        span=span,
    )
    body = []
    varied = [one for one in told if one.varied is not None]
    if len(varied) > 1:
        most = max(varied, key=lambda one: one.varied or 0.0)
        least = min(varied, key=lambda one: one.varied or 0.0)
        body.append(
            say(
                "Growth varied most for {most} (by {much} around its mean) and least for {least} ({little}).",
                most=names.label(most.label),
                much=numbers.points(100 * (most.varied or 0.0)),
                least=names.label(least.label),
                little=numbers.points(100 * (least.varied or 0.0)),
            )
        )
    worst = max(found.parts, key=lambda one: one.fall)
    if worst.fall > 0:
        body.append(_fallen(worst))
    return fit(headline, body, [say("All of it is told of sums over a year, in which no season is left.")])


def _fallen(one: Growth) -> str:
    assert one.peak is not None
    assert one.trough is not None
    places = {
        "label": names.label(one.label),
        "fall": numbers.percent(100 * one.fall),
        "peak": dates.period(one.peak),
        "trough": dates.period(one.trough),
    }
    if one.back is None:
        return say(
            "The worst fall was that of {label}: {fall} from the year to {peak} to that to {trough}, not made up yet.",
            **places,
        )
    return say(
        "The worst fall was that of {label}: {fall} from the year to {peak} to that to {trough}, made up by {back}.",
        **places,
        back=dates.period(one.back),
    )


def _rate(value: float | None) -> str:
    return "–" if value is None else numbers.per_cent(100 * value)


def growth_table(found: GrowthTable) -> TextTable:
    """A row for each label, the fastest first, and the whole."""
    heads = (
        names.capital(names.dimension(found.by.name)),
        say("Last year", "column"),
        say("Growth a year"),
        say("Varied by"),
        say("Worst fall"),
        say("Back"),
    )
    ranked = sorted(found.parts, key=lambda one: (one.rate is None, -(one.rate or 0.0), str(one.label)))
    rows = [_row(found, one, names.label(one.label)) for one in ranked]
    rows.append(_row(found, found.whole, say("All", "column")))
    return TextTable(title="", heads=heads, rows=tuple(rows), left=1)


def _row(found: GrowthTable, one: Growth, label: str) -> tuple[str, ...]:
    back = "–" if one.peak is None else say("not yet") if one.back is None else dates.period(one.back)
    return (
        label,
        numbers.amount(one.value, found.measure),
        _rate(one.rate),
        "–" if one.varied is None else numbers.points(100 * one.varied),
        "–" if not one.fall else numbers.percent(100 * one.fall),
        back,
    )
