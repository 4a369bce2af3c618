"""The whole report of a table: the last period and why, the longer run, what goes with the measure people worry about,
what is to be expected."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import replace
from pathlib import PurePath

from ..aggregation import Survey
from ..analysis.change import Explanation
from ..analysis.drivers import Found
from ..analysis.forecast import Outlook
from ..charts import draw, driver_charts, forecast_charts
from ..findings import Finding
from ..findings.checks import one_row, over
from ..sql.expressions import quote_name
from ..text import Summary, dates, driver_sentences, forecast_sentences, names, numbers
from ..text import change_sentences as words_of_change
from ..text.forecast_sentences import forecast_summary
from ..text.languages import say
from ..text.opening_summary import HAPPENED, ranked_news
from ..text.text_tables import TextTable
from ..text.text_tables.text_table import NONE
from .driver_report import segments_section, whole_evidence
from .forecast_report import forecast_section
from .outcome_reports import table_section
from .page_model import Report, Section, caveat_lines, change_pictures, edition, key_of, listed, made_lines, section

Told = tuple[Sequence[Finding], Explanation, Summary]
#: Sections of the longer run, of which those that say how things are (seasons, leaders, differences) at most.
_MOST_FINDINGS, _MOST_STANDING, _MOST_KEYS = 8, 2, 4
#: Kinds that say how things are, which a manager wants to have read once.
_STANDING = ("seasonality", "ranking", "concentration", "difference", "exception")


def period_report(
    survey: Survey,
    summary: Summary,
    findings: Sequence[Finding],
    folded: Sequence[Finding],
    changes: Sequence[Told],
    previous: Sequence[Explanation | None],
    drivers: Found | None,
    outlook: Outlook | None,
    caveats: Sequence[str],
    tests: int,
    steps: Sequence[str],
    title: str | None,
    progress: Callable[[str], None] = lambda _: None,
    *,
    most: int | None = None,
    targets: Sequence[float | None] = (),
    familiar: Collection[str] = (),
) -> Report:
    """The report; `changes` the leading measure first, `previous` the same against the period just before, `targets`
    those of the same measures. At most `most` findings are shown, those that are not `familiar` first."""
    lead = changes[0][1]
    shown = longer_run(findings, lead, most or _MOST_FINDINGS, familiar)
    sections: list[Section] = []
    progress("drawing what changed")
    sections += _part(
        say("What changed {when}, and why", when=dates.within(lead.period)), _changed(changes, previous, shown, targets)
    )
    told = []
    for place, finding in enumerate(shown, start=1):
        progress(f"drawing chart {place} of {len(shown)}")
        made = section(finding, draw(finding, survey))
        path = f"findings[{findings.index(finding)}].figures"
        told.append(replace(made, figures=finding.figures, path=path))
    sections += _part(say("Over the longer run"), told)
    if drivers is not None and drivers.drivers:
        progress("drawing what goes with it")
        sections += _part(say("What goes with {who}", who=driver_sentences.subject(drivers)), _drivers(drivers))
    if outlook is not None:
        progress("drawing what is to be expected")
        sections += _part(say("What is to be expected"), _outlook(outlook))
    kept = {finding.id for finding in shown}
    return Report(
        title=title or say("{table}: {period}", table=names.capital(_spoken(survey)), period=dates.period(lead.period)),
        edition=edition(survey),
        summary=summary,
        keys=tuple(key_of(one) for _, one, _ in changes[:_MOST_KEYS]),
        sections=tuple(sections),
        further=tuple(one.headline for one in findings if one.id not in kept and one.kind != "change")[:12],
        caveats=tuple(dict.fromkeys((*caveats, *caveat_lines(survey, ())))),
        made=made_lines(survey, tests, len(findings), len(folded)),
        steps=tuple(steps),
        listed=listed(findings),
    )


def _spoken(survey: Survey) -> str:
    """The table's name without its ending."""
    table = survey.table if survey.source is None else survey.source[0]
    return PurePath(table.name).stem.replace("_", " ")


def longer_run(
    findings: Sequence[Finding], lead: Explanation, most: int = _MOST_FINDINGS, familiar: Collection[str] = ()
) -> list[Finding]:
    """What is shown of a scan beside the last period: what happened, news first, then how things are."""
    news = [one for one in ranked_news(findings, lead, familiar) if one.kind != "change"]
    standing = [one for one in findings if one.kind in _STANDING][:_MOST_STANDING]
    others = [one for one in findings if one.kind not in (*HAPPENED, *_STANDING)]
    kept = [*news[: max(1, most - len(standing))], *standing][:most]
    return [*kept, *others[: max(0, most - len(kept))]]


def _part(name: str, sections: Sequence[Section]) -> list[Section]:
    """Sections with the name of their part over the first."""
    return [
        replace(one, part=name if place == 0 else "", level=2 if place == 0 else 3)
        for place, one in enumerate(sections)
    ]


def _changed(
    changes: Sequence[Told],
    previous: Sequence[Explanation | None],
    shown: Sequence[Finding],
    targets: Sequence[float | None],
) -> list[Section]:
    """The figures side by side; of the leading measure its path, what it is made of, where it came about; of others,
    their path where they moved more than usual."""
    lead_findings, lead, _ = changes[0]
    # What nothing is known of what is usual of did not move more than that.
    usual = [one for _, one, _ in changes if one.usual is not None and one.usual.usual]
    claim = (
        say("None of the {n} measures moved more than usual {when}.", n=len(changes), when=dates.within(lead.period))
        if len(usual) == len(changes) > 1
        else lead_findings[0].headline
    )
    explained = [one for _, one, _ in changes]
    table = table_section("figures", claim, figures_table(explained, previous, targets))
    sql, expect = _checked(explained, previous)
    sections = [replace(table, sql=sql, expect=expect)]
    told = {finding.where for finding in shown if finding.measure == lead.measure}
    pictures = change_pictures(lead_findings, lead)
    if lead.named and all(part.where in told for part in lead.named):
        # Where it came about is shown by the findings of those slices.
        pictures = [one for one in pictures if one.id != "slices"]
    if len(pictures) > 1 and pictures[0].claim == claim:
        pictures[0] = replace(pictures[0], claim=(words_of_change.usual(lead) or [claim])[0], detail="")
    sections += pictures
    for place, (findings, one, own) in enumerate(changes[1:], start=2):
        if one.usual is None or one.usual.usual:
            continue
        sections += [
            replace(picture, id=f"{picture.id}-{place}", detail=own.text)
            for picture in change_pictures(findings, one)[:1]
        ]
    return sections


def _checked(
    changes: Sequence[Explanation], previous: Sequence[Explanation | None]
) -> tuple[str, tuple[tuple[str, str], ...]]:
    """One SELECT that gives every figure of the table, and what it gives."""
    columns, expect = {}, []
    for one, other in zip(changes, previous, strict=True):
        line = one.survey.timeline
        assert line is not None
        spans = [(one.period, one.value), (one.baseline, one.before)]
        spans += [] if other is None or other.baseline == one.baseline else [(other.baseline, other.before)]
        for span, value in spans:
            if span.foretold:
                continue
            name = f"{one.measure.label}, {dates.period(span)}"
            columns[quote_name(name)] = over(one.measure, one.survey.table, one.where, line.column, span)
            expect.append((name, repr(value)))
    return one_row(columns), tuple(expect)


def figures_table(
    changes: Sequence[Explanation], previous: Sequence[Explanation | None], targets: Sequence[float | None] = ()
) -> TextTable:
    """The measures of a period: against the baseline and against the period before, with what is usual; against their
    target, where one is set."""
    lead = changes[0]
    before = next((one for one in previous if one is not None), None)
    apart = before is not None and before.baseline != lead.baseline
    heads = [
        say("Measure", "column"),
        names.capital(dates.period(lead.period)),
        names.capital(dates.period(lead.baseline)),
        say("Change from {period}", "column", period=dates.period(lead.baseline)),
        say("Usual change", "column"),
    ]
    if apart and before is not None:
        heads += [
            names.capital(dates.period(before.baseline)),
            say("Change from {period}", "column", period=dates.period(before.baseline)),
        ]
    aims = [*targets, *(None for _ in changes[len(targets) :])]
    aimed = any(one is not None for one in aims)
    heads += [say("Target", "column")] if aimed else []
    rows = []
    for one, other, aim in zip(changes, previous, aims, strict=True):
        row = [
            names.capital(names.measure_name(one.measure)),
            numbers.amount(one.value, one.measure),
            numbers.amount(one.before, one.measure),
            _change(one),
            _usual(one),
        ]
        if apart:
            row += [NONE, NONE] if other is None else [numbers.amount(other.before, other.measure), _change(other)]
        if aimed:
            row.append(NONE if aim is None else numbers.amount(aim, one.measure))
        rows.append(tuple(row))
    return TextTable(title="", heads=tuple(heads), rows=tuple(rows), left=1)


def _change(one: Explanation) -> str:
    if one.change_pct is not None:
        return numbers.per_cent(one.change_pct)
    return numbers.signed(one.change, numbers.difference(one.change, one.measure))


def _usual(one: Explanation) -> str:
    """The range that the change was to be expected in."""
    by = one.usual
    if by is None:
        return NONE
    if one.change_pct is not None and one.before:
        low, high = (numbers.per_cent(100 * end / one.before) for end in (by.low, by.high))
    else:
        low, high = (numbers.signed(end, numbers.difference(end, one.measure)) for end in (by.low, by.high))
    return say("{low} to {high}", low=low, high=high)


def _drivers(found: Found) -> list[Section]:
    claim = f"{driver_sentences.driver(found.drivers[0], found)}."
    more = [f"{driver_sentences.driver(one, found)}." for one in found.drivers[1:3]]
    effects = Section(
        id="drivers",
        claim=claim,
        detail=" ".join([*more, say("These go with it; whether they cause it, the table cannot tell.")]),
        chart=driver_charts.draw_effects(found, claim.rstrip(".")),
        evidence=whole_evidence(found),
        sql=f"SELECT {found.outcome.measure.sql} AS value FROM source",
        expect=(("value", repr(found.outcome.overall)),),
    )
    # A segment of one condition is the driver told above.
    crossed = [one for one in found.segments if len(one.conditions) > 1]
    return [
        effects,
        *(
            replace(segments_section(one, found), detail=driver_sentences.segment_detail(one, found))
            for one in crossed[:1]
        ),
    ]


def _outlook(found: Outlook) -> list[Section]:
    told = forecast_summary(found)
    chart = forecast_charts.draw_forecast(found, told.headline.rstrip("."))
    return [
        forecast_section(found, told.headline, told.text, chart),
        table_section("forecast-figures", say("The figures"), forecast_sentences.forecast_tables(found)[0]),
    ]
