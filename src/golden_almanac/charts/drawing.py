"""From a finding, or an explained change, to its chart."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..core.cells import PERIOD, Survey
from ..core.changes import Explanation
from ..core.findings import Finding
from ..core.measures import ROWS, spoken
from ..words import names, numbers
from .bars import bars
from .changes import draw_change
from .chart import Chart, source_of
from .dots import dots
from .histogram import histogram
from .line import line

#: Letters that fit beside the end of a line.
_BESIDE_LINE = 19


def draw(finding: Finding, survey: Survey) -> Chart:
    """The chart that shows what the finding's headline says."""
    return _DRAWERS[finding.kind](finding, survey)


def _moving(finding: Finding, survey: Survey) -> Chart:
    facts, measure, line_of = finding.candidate.series, finding.measure, survey.timeline
    assert line_of is not None
    assert measure is not None
    own, rest = np.asarray(facts["own"]), facts["rest"]
    label = finding.where.label or names.capital(measure.label)
    series: list[tuple[str, Any]] = [(label, own)]
    indexed = False
    unit = names.capital(measure.label) + (f" ({measure.unit})" if measure.unit else "")
    each = f" per {line_of.grain.value}"
    if rest is not None:
        others = names.the_others(finding.by, None, facts.get("besides", ()))
        # There is room for so much beside the line; the headline says which others.
        others = others if len(others) <= _BESIDE_LINE else "the others"
        if measure.additive:
            # Against a rest many times larger only the paths compare: both start at 100.
            base = min(12, max(1, own.size // 3))
            series = [(label, 100 * own / own[:base].mean()), (others, 100 * np.asarray(rest) / np.mean(rest[:base]))]
            unit, indexed = f"{unit}{each}, average of the first {base} = 100", True
        else:
            series.append((others, np.asarray(rest)))
            unit += each
    else:
        unit += each
    fit = None
    if rest is None and "fit" in facts:
        fit = facts["fit"]
    step = None
    if finding.kind == "shift":
        step = (int(facts["place"]), 0.0, 0.0)
    partial = None
    if rest is None and line_of.partial_last and measure.additive:
        partial = float(survey.cells(PERIOD).value(measure)[-1])
    span = names.span_of(line_of.span(line_of.complete.start, line_of.complete.stop - 1))
    subtitle = f"{unit} · {span}" + (" · dashed: fitted line" if fit is not None else "")
    subtitle += f" · hollow: {names.month(line_of.last_day)}, unfinished" if partial is not None else ""
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
        alternative=f"Line chart. {finding.headline} {finding.detail}",
    )


def _season(finding: Finding, survey: Survey) -> Chart:
    facts = finding.candidate.series
    peak = finding.figures["peak"]
    profile, labels = (
        np.asarray(facts["profile"]),
        [names.capital(str(name).removeprefix("the ").removesuffix(" of the month")) for name in facts["names"]],
    )
    return bars(
        name=finding.id,
        title=finding.headline,
        subtitle=f"Against the average of the {finding.figures['cycle']}, percent · "
        + (names.span_of(finding.period) if finding.period else ""),
        source=source_of(survey),
        labels=labels,
        values=[100 * (value - 1) for value in profile],
        highlight=None if peak is None else names.capital(peak.removeprefix("the ").removesuffix(" of the month")),
        measure=None,
        by="part of the " + finding.figures["cycle"],
        adds_up=False,
        order=False,
        signed=True,
        most=12,
        suffix="%",
    )


def _ranking(finding: Finding, survey: Survey) -> Chart:
    f = finding.figures
    labels = [names.label(label) for label in f["order"]]
    measure = finding.measure
    assert measure is not None
    return bars(
        name=finding.id,
        title=finding.headline,
        subtitle=names.capital(measure.label)
        + (" · whole table" if finding.period is None else f" · {names.span_of(finding.period)}"),
        source=source_of(survey),
        labels=labels,
        values=f["values"],
        highlight=finding.where.label or labels[0],
        measure=measure,
        by=finding.by or "group",
        adds_up=True,
    )


def _difference(finding: Finding, survey: Survey) -> Chart:
    facts, measure = finding.candidate.series, finding.measure
    assert measure is not None
    labels = [names.label(label) for label in facts["labels"]]
    unit = f" ({measure.unit})" if measure.unit else ""
    return bars(
        name=finding.id,
        title=finding.headline,
        source=source_of(survey),
        labels=labels,
        values=facts["values"],
        subtitle=f"{names.capital(measure.label)}{unit} by {names.dimension(finding.by)} · whiskers: 95% range",
        highlight=finding.where.label,
        measure=measure,
        by=finding.by or "group",
        adds_up=False,
        errors=[1.96 * error for error in facts["errors"]],
        reference=("the others", float(facts["rest"])),
    )


def _outlier(finding: Finding, survey: Survey) -> Chart:
    f = finding.figures
    value, following, typical = f["value"], f["next_value"], f["typical"]
    nearest = "next largest" if value >= typical else "next smallest"
    where = f" of {finding.where.label}" if finding.where.conditions else ""
    return bars(
        name=finding.id,
        title=finding.headline,
        subtitle=f"{names.capital(spoken(f['column']))}{where}",
        source=source_of(survey),
        labels=[f"row {numbers.whole(f['row'])}", nearest, "usual (median)"],
        values=[value, following, typical],
        highlight=f"row {numbers.whole(f['row'])}",
        measure=finding.measure if finding.measure and not finding.measure.share else None,
        by="what",
        adds_up=False,
        order=False,
    )


def _spike(finding: Finding, survey: Survey) -> Chart:
    facts, measure = finding.candidate.series, finding.measure
    assert measure is not None
    line_of = facts["timeline"]
    span = names.span_of(line_of.span(line_of.complete.start, line_of.complete.stop - 1))
    unit = names.capital(measure.label) + (f" ({measure.unit})" if measure.unit else "")
    return line(
        name=finding.id,
        title=finding.headline,
        subtitle=f"{unit} per {line_of.grain.value} · {span}",
        source=source_of(survey),
        timeline=line_of,
        measure=measure,
        offset=int(facts["offset"]),
        series=[(names.capital(measure.label), np.asarray(facts["own"]))],
        mark=int(facts["place"]),
        alternative=f"Line chart. {finding.headline} {finding.detail}",
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
        subtitle=f"{names.capital(measure.label)} of {names.label(one)} by {names.dimension(f['and_by'])} · percent "
        "above or below what both alone lead one to expect",
        source=source_of(survey),
        labels=[label for label, _ in known],
        values=[value for _, value in known],
        highlight=names.label(other),
        measure=None,
        by=f["and_by"],
        adds_up=False,
        signed=True,
        suffix="%",
    )


def _gap(finding: Finding, survey: Survey) -> Chart:
    facts, line_of = finding.candidate.series, survey.timeline
    assert line_of is not None
    column = finding.figures.get("column")
    of_label = f"Rows of {finding.where.label}" if finding.where.conditions else "Rows"
    what = f"Rows with {spoken(column)}" if column else of_label
    span = names.span_of(line_of.span(line_of.complete.start, line_of.complete.stop - 1))
    return line(
        name=finding.id,
        title=finding.headline,
        subtitle=f"{what} per {line_of.grain.value} · {span}",
        source=source_of(survey),
        timeline=line_of,
        measure=ROWS,
        offset=int(facts["offset"]),
        series=[(finding.where.label or spoken(column or "rows"), np.asarray(facts["own"]))],
        alternative=f"Line chart. {finding.headline} {finding.detail}",
    )


def _change(finding: Finding, survey: Survey) -> Chart:
    one: Explanation = finding.candidate.series["explanation"]
    chart = draw_change(one, finding.headline)
    if chart is not None:
        return chart
    return bars(
        name=finding.id,
        title=finding.headline,
        subtitle=names.capital(one.measure.label),
        source=source_of(survey),
        labels=[names.period(one.baseline), names.period(one.period)],
        values=[one.before, one.value],
        highlight=names.period(one.period),
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
        subtitle=f"{names.capital(measure.label)} by {names.dimension(finding.by)} · whole table",
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
    whole = "all together"
    shares = [
        f"{names.label(one['label'])} ({numbers.percent(100 * one['share_before'])} → "
        f"{numbers.percent(100 * one['share'])})"
        for one in known
    ]
    return bars(
        name=finding.id,
        title=finding.headline,
        subtitle=f"Change of {measure.label} within each {names.dimension(finding.by)} (share of all before → after) · "
        f"{names.span_of(finding.period)}, on a year before",
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
        subtitle=f"Average {spoken(second)} in {len(facts['x'])} groups of equally many rows, by {spoken(first)}",
        source=source_of(survey),
        x=facts["x"],
        y=facts["y"],
        columns=(first, second),
        alternative=f"Dot chart. {finding.headline} {finding.detail}",
    )


def _distribution(finding: Finding, survey: Survey) -> Chart:
    f = finding.figures
    marks = {
        "two humps": [("first_hump", ""), ("second_hump", "")],
        "long tail": [("median", "median "), ("top_from", "top tenth from ")],
        "heaps": [],
    }[f["shape"]]
    return histogram(
        name=finding.id,
        title=finding.headline,
        subtitle=f"Rows by {spoken(f['column'])}",
        source=source_of(survey),
        values=np.asarray(finding.candidate.series["values"]),
        measure=finding.measure,
        marks=[(float(f[name]), text + numbers.amount(f[name], finding.measure)) for name, text in marks],
        alternative=f"Histogram. {finding.headline} {finding.detail}",
    )


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
