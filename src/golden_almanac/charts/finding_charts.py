"""From a finding, or an explained change, to its chart."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from ..aggregation import PERIOD, Survey
from ..aggregation.measures import ROWS, Measure
from ..analysis.change import Explanation
from ..findings import Finding
from ..tables import Timeline
from ..text import consistent_rounding, dates, names, numbers
from ..text.languages import say
from .bars import bars
from .binned_dots import dots
from .change_charts import draw_change
from .chart import Chart, described, measured, source_of
from .histogram import histogram
from .line_chart import line

#: Letters that fit beside the end of a line.
_BESIDE_LINE = 19


def draw(finding: Finding, survey: Survey) -> Chart:
    """The chart that shows what the finding's headline says."""
    chart = _DRAWERS[finding.kind](finding, survey)
    return replace(chart, figures=tuple(_figures(dict(finding.figures))))


def _figures(figure: Any) -> list[float]:
    """Every number among the figures of a finding, and how many there are of a list."""
    if isinstance(figure, bool) or figure is None:
        return []
    if isinstance(figure, dict):
        return [number for inner in figure.values() for number in _figures(inner)]
    if isinstance(figure, list | tuple):
        return [float(len(figure)), *(number for inner in figure for number in _figures(inner))]
    return [float(figure)] if isinstance(figure, int | float) and np.isfinite(figure) else []


def _line_words(finding: Finding) -> str:
    return described("Line chart", f"{finding.headline} {finding.detail}")


def _per(line_of: Timeline, measure: Measure) -> str:
    """What a line over time measures: "Revenue (EUR) per month"."""
    return say("{measure} per {grain}", measure=measured(measure), grain=names.grain_noun(line_of.grain.value))


def _moving(finding: Finding, survey: Survey) -> Chart:
    facts, measure, line_of = finding.candidate.series, finding.measure, survey.timeline
    assert line_of is not None
    assert measure is not None
    own, rest = np.asarray(facts["own"]), facts["rest"]
    label = names.where_label(finding.where) or names.capital(names.measure_name(measure))
    series: list[tuple[str, Any]] = [(label, own)]
    indexed = False
    unit = _per(line_of, measure)
    if rest is not None:
        others = names.the_others(finding.by, None, facts.get("besides", ()))
        # There is room for so much beside the line; the headline says which others.
        beside = str(others) if len(others) <= _BESIDE_LINE else say("the others")
        if measure.additive:
            # Against a rest many times larger only the paths compare: both start at 100.
            base = min(12, max(1, own.size // 3))
            series = [(label, 100 * own / own[:base].mean()), (beside, 100 * np.asarray(rest) / np.mean(rest[:base]))]
            unit, indexed = say("{measure}, average of the first {n} = 100", measure=unit, n=base), True
        else:
            series.append((beside, np.asarray(rest)))
    fit = None
    if rest is None and "fit" in facts:
        fit = facts["fit"]
    step = None
    if finding.kind == "shift":
        step = (int(facts["place"]), 0.0, 0.0)
    partial = None
    if rest is None and line_of.partial_last and measure.additive:
        partial = float(survey.cells(PERIOD).value(measure)[-1])
    span = dates.span_of(line_of.span(line_of.complete.start, line_of.complete.stop - 1))
    subtitle = f"{unit} · {span}" + (say(" · dashed: fitted line") if fit is not None else "")
    if partial is not None:
        subtitle += say(" · hollow: {month}, unfinished", month=dates.month(line_of.last_day))
    return line(
        name=finding.id,
        title=finding.headline,
        subtitle=subtitle,
        source=source_of(survey),
        timeline=line_of,
        measure=measure,
        offset=int(facts["offset"]),
        series=series,
        fit=fit,
        step=step,
        partial=partial,
        indexed=indexed,
        alternative=_line_words(finding),
    )


def _season(finding: Finding, survey: Survey) -> Chart:
    facts = finding.candidate.series
    peak = finding.figures["peak"]
    profile, labels = (np.asarray(facts["profile"]), [_cycle_label(str(name)) for name in facts["names"]])
    return bars(
        name=finding.id,
        title=finding.headline,
        subtitle=say("Against the average of the {cycle}, percent", cycle=names.grain_noun(finding.figures["cycle"]))
        + (f" · {dates.span_of(finding.period)}" if finding.period else ""),
        source=source_of(survey),
        labels=labels,
        values=[100 * (value - 1) for value in profile],
        highlight=None if peak is None else _cycle_label(peak),
        measure=None,
        by=say("part of the {cycle}", cycle=names.grain_noun(finding.figures["cycle"])),
        adds_up=False,
        order=False,
        signed=True,
        most=12,
        percent=True,
    )


def _cycle_label(name: str) -> str:
    """A part of a cycle as a label: "July", "First quarter", "Second week"."""
    said = dates.calendar_name(name)
    return names.capital(said.removeprefix("the ").removesuffix(" of the month"))


def _ranking(finding: Finding, survey: Survey) -> Chart:
    f = finding.figures
    labels = [names.label(label) for label in f["order"]]
    measure = finding.measure
    assert measure is not None
    return bars(
        name=finding.id,
        title=finding.headline,
        subtitle=names.capital(names.measure_name(measure))
        + (say(" · whole table") if finding.period is None else f" · {dates.span_of(finding.period)}"),
        source=source_of(survey),
        labels=labels,
        values=f["values"],
        highlight=names.where_label(finding.where) or labels[0],
        measure=measure,
        by=finding.by or "group",
        adds_up=True,
    )


def _difference(finding: Finding, survey: Survey) -> Chart:
    facts, measure = finding.candidate.series, finding.measure
    assert measure is not None
    labels = [names.label(label) for label in facts["labels"]]
    return bars(
        name=finding.id,
        title=finding.headline,
        source=source_of(survey),
        labels=labels,
        values=facts["values"],
        subtitle=say("{measure} by {part}", measure=measured(measure), part=names.dimension(finding.by))
        + say(" · whiskers: 95% range"),
        highlight=names.where_label(finding.where),
        measure=measure,
        by=finding.by or "group",
        adds_up=False,
        errors=[1.96 * error for error in facts["errors"]],
        reference=(say("the others"), float(facts["rest"])),
    )


def _outlier(finding: Finding, survey: Survey) -> Chart:
    f = finding.figures
    value, following, typical = f["value"], f["next_value"], f["typical"]
    nearest = say("next largest") if value >= typical else say("next smallest")
    inside = say(" of {label}", label=names.where_label(finding.where)) if finding.where.conditions else ""
    row = say("row {row}", row=numbers.whole(f["row"]))
    return bars(
        name=finding.id,
        title=finding.headline,
        subtitle=names.capital(names.column(f["column"])) + inside,
        source=source_of(survey),
        labels=[row, nearest, say("usual (median)")],
        values=[value, following, typical],
        highlight=row,
        measure=finding.measure if finding.measure and not finding.measure.share else None,
        by="what",
        adds_up=False,
        order=False,
    )


def _spike(finding: Finding, survey: Survey) -> Chart:
    facts, measure = finding.candidate.series, finding.measure
    assert measure is not None
    line_of = facts["timeline"]
    span = dates.span_of(line_of.span(line_of.complete.start, line_of.complete.stop - 1))
    return line(
        name=finding.id,
        title=finding.headline,
        subtitle=f"{_per(line_of, measure)} · {span}",
        source=source_of(survey),
        timeline=line_of,
        measure=measure,
        offset=int(facts["offset"]),
        series=[(names.capital(names.measure_name(measure)), np.asarray(facts["own"]))],
        mark=int(facts["place"]),
        alternative=_line_words(finding),
    )


def _exception(finding: Finding, survey: Survey) -> Chart:
    """How many times what is expected each label is, within the first of the two."""
    facts, f, measure = finding.candidate.series, finding.figures, finding.measure
    assert measure is not None
    (_, one), (_, other) = finding.where.conditions
    known = [
        (names.label(label), 100 * (value / usual - 1))
        for label, value, usual in zip(facts["labels"], facts["values"], facts["expected"], strict=True)
        if usual > 0
    ]
    return bars(
        name=finding.id,
        title=finding.headline,
        subtitle=say(
            "{measure} by {part} · percent above or below what both alone lead one to expect",
            measure=names.capital(names.measure_name(measure).with_tail(say(" of {label}", label=names.label(one)))),
            part=names.dimension(f["and_by"]),
        ),
        source=source_of(survey),
        labels=[label for label, _ in known],
        values=[value for _, value in known],
        highlight=names.label(other),
        measure=None,
        by=f["and_by"],
        adds_up=False,
        signed=True,
        percent=True,
    )


def _gap(finding: Finding, survey: Survey) -> Chart:
    facts, line_of = finding.candidate.series, survey.timeline
    assert line_of is not None
    column = finding.figures.get("column")
    rows = names.noun("rows")
    if column:
        rows = rows.with_tail(say(" with {name}", name=names.column(column)))
    elif finding.where.conditions:
        rows = rows.with_tail(say(" of {label}", label=names.where_label(finding.where)))
    span = dates.span_of(line_of.span(line_of.complete.start, line_of.complete.stop - 1))
    return line(
        name=finding.id,
        title=finding.headline,
        subtitle=say("{measure} per {grain}", measure=names.capital(rows), grain=names.grain_noun(line_of.grain.value))
        + f" · {span}",
        source=source_of(survey),
        timeline=line_of,
        measure=ROWS,
        offset=int(facts["offset"]),
        series=[(names.where_label(finding.where) or names.column(column or "rows"), np.asarray(facts["own"]))],
        alternative=_line_words(finding),
    )


def _change(finding: Finding, survey: Survey) -> Chart:
    one: Explanation = finding.candidate.series["explanation"]
    chart = draw_change(one, finding.headline)
    if chart is not None:
        return chart
    return bars(
        name=finding.id,
        title=finding.headline,
        subtitle=names.capital(names.measure_name(one.measure)),
        source=source_of(survey),
        labels=[dates.period(one.baseline), dates.period(one.period)],
        values=[one.before, one.value],
        highlight=dates.period(one.period),
        measure=one.measure,
        by="period",
        adds_up=False,
        order=False,
    )


def _concentration(finding: Finding, survey: Survey) -> Chart:
    facts, measure, f = finding.candidate.series, finding.measure, finding.figures
    assert measure is not None
    return bars(
        name=finding.id,
        title=finding.headline,
        subtitle=say(
            "{measure} by {part}", measure=names.capital(names.measure_name(measure)), part=names.dimension(finding.by)
        )
        + say(" · whole table"),
        source=source_of(survey),
        labels=[names.label(label) for label in facts["labels"]],
        values=facts["values"],
        highlight=[names.label(label) for label in f["top"]],
        measure=measure,
        by=finding.by or "group",
        adds_up=True,
        most=12,
    )


def _mix(finding: Finding, survey: Survey) -> Chart:
    """How the average moved within each part, beside how the whole moved."""
    f, measure = finding.figures, finding.measure
    assert measure is not None
    assert finding.period is not None
    assert finding.baseline is not None
    known = [one for one in f["parts"] if one["change"] is not None][:8]
    whole = say("all together")
    # Weights add up to all of it, those that are not drawn among them.
    before, after = (
        consistent_rounding.shares([one[side] for one in f["parts"]]) for side in ("share_before", "share")
    )
    weights = dict(zip((one["label"] for one in f["parts"]), zip(before, after, strict=True), strict=True))
    shares = [f"{names.label(one['label'])} ({' → '.join(weights[one['label']])})" for one in known]
    return bars(
        name=finding.id,
        title=finding.headline,
        subtitle=say(
            "Change of {measure} by {part} (share of all before → after) · {span}, on a year before",
            measure=names.measure_name(measure),
            part=names.dimension(finding.by),
            span=dates.span_of(finding.period),
        ),
        source=source_of(survey),
        labels=[whole, *shares],
        values=[f["change"], *(one["change"] for one in known)],
        highlight=whole,
        measure=measure,
        by=finding.by or "group",
        adds_up=False,
        order=False,
        signed=True,
    )


def _relationship(finding: Finding, survey: Survey) -> Chart:
    facts = finding.candidate.series
    first, second = finding.figures["columns"]
    return dots(
        name=finding.id,
        title=finding.headline,
        subtitle=say(
            "Averages of {second} in {n} groups of equally many rows, by {first}",
            second=names.column(second),
            n=len(facts["x"]),
            first=names.column(first),
        ),
        source=source_of(survey),
        x=facts["x"],
        y=facts["y"],
        columns=(first, second),
        alternative=described("Dot chart", f"{finding.headline} {finding.detail}"),
    )


def _distribution(finding: Finding, survey: Survey) -> Chart:
    f = finding.figures
    marks = {"two humps": ["first_hump", "second_hump"], "long tail": ["median", "top_from"], "heaps": []}[f["shape"]]
    return histogram(
        name=finding.id,
        title=finding.headline,
        subtitle=say("Rows by {name}", name=names.column(f["column"])),
        source=source_of(survey),
        values=np.asarray(finding.candidate.series["values"]),
        measure=finding.measure,
        marks=[(float(f[name]), _mark(name, numbers.amount(f[name], finding.measure))) for name in marks],
        alternative=described("Histogram", f"{finding.headline} {finding.detail}"),
    )


def _mark(name: str, value: str) -> str:
    if name == "median":
        return say("median {value}", value=value)
    return say("top tenth from {value}", value=value) if name == "top_from" else value


_DRAWERS = {
    "trend": _moving,
    "shift": _moving,
    "seasonality": _season,
    "ranking": _ranking,
    "difference": _difference,
    "outlier": _outlier,
    "spike": _spike,
    "exception": _exception,
    "gap": _gap,
    "change": _change,
    "concentration": _concentration,
    "mix": _mix,
    "relationship": _relationship,
    "distribution": _distribution,
    "divergence": _moving,
}
