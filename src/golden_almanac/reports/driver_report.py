"""The report of what goes with an outcome: all effects, each driver, the segments, each with its check."""

from __future__ import annotations

from collections.abc import Sequence

from ..analysis.drivers import Driver, Found, Segment
from ..charts import driver_charts as charts
from ..text import Summary, names, numbers, problem_sentences
from ..text import driver_sentences as said
from ..text.languages import say
from .page_model import Report, Section, edition_line

_MOST_DRIVERS = 6


def drivers_report(found: Found, summary: Summary, caveats: Sequence[str], title: str | None = None) -> Report:
    """Sections: all effects together, each driver by itself, the segments."""
    about = found.outcome
    table = about.table
    sections = []
    whole = charts.draw_effects(found, summary.headline.rstrip("."))
    if whole is not None and len(found.drivers) > 1:
        listed = names.listed([said.factor_name(driver.factor) for driver in found.drivers[:5]])
        claim = say("What goes with {who}: {names}", who=said.subject(found), names=listed)
        sections.append(
            Section(
                id="effects",
                claim=f"{claim}.",
                detail=say("Most important first; each beside all others."),
                chart=charts.draw_effects(found, claim),
                evidence=whole_evidence(found),
                sql=f"SELECT {about.measure.sql} AS value FROM source",
                expect=(("value", repr(about.overall)),),
            )
        )
    sections += [_driver(driver, found) for driver in found.drivers[:_MOST_DRIVERS]]
    if found.segments:
        first = found.segments[0]
        sections.append(segments_section(first, found))
    made = [
        say(
            "{n} rows were read from {table}; {known} have the outcome.",
            n=numbers.whole(table.rows_read),
            table=table.name,
            known=numbers.whole(about.n),
        ),
        say("Factors: {names}.", names=", ".join(said.factor_name(factor) for factor in found.factors)),
        say("Each factor was tested by itself, by permutation; ranges are Student's and Welch's.")
        if found.few
        else say(
            "Effects are least squares beside all other factors; ranges are robust and count by {column}.",
            column=names.dimension(found.clusters),
        )
        if found.clusters is not None
        else say("Effects are least squares beside all other factors; ranges are robust and count weeks.")
        if found.errors != "HC3"
        else say("Effects are least squares beside all other factors; ranges are robust (HC3)."),
        *(
            say("Left out: {factor}: {reason}.", factor=one.factor, reason=said.reason(one.reason))
            for one in found.left_out
        ),
    ]
    return Report(
        title=title or say("What goes with {who}", who=said.subject(found)),
        edition=edition_line(table, about.n),
        summary=summary,
        keys=(),
        sections=tuple(sections),
        further=tuple(
            say("{name}: no clear effect; {reason}.", name=said.factor_name(one.factor), reason=said.reason(one.reason))
            for one in found.unclear
        ),
        caveats=(*caveats, *(problem_sentences.sentence(problem) for problem in table.problems)),
        made=tuple(made),
    )


def whole_evidence(found: Found) -> tuple[tuple[str, str], ...]:
    about = found.outcome
    return (
        (say("Rows"), numbers.whole(about.n)),
        (say("Overall"), numbers.amount(about.overall, about.measure)),
        *(
            ()
            if found.few
            else (
                (
                    say("Foretold"),
                    say("{share} of what varies, on rows not seen", share=numbers.percent(100 * found.foretold)),
                ),
            )
        ),
    )


def _driver(driver: Driver, found: Found) -> Section:
    first = driver.effects[0]
    where = first.sql or "TRUE"
    if driver.shape is not None and driver.shape.cut is not None:
        from ..sql.expressions import quote_name

        where = f"{quote_name(driver.factor.column)} > {driver.shape.cut.at!r}"
    value = _of(found, where)
    return Section(
        id=f"driver-{driver.factor.name}",
        claim=f"{said.driver(driver, found)}.",
        detail=said.driver_detail(driver, found),
        chart=charts.draw_driver(found, driver),
        evidence=(
            (say("Rows"), numbers.whole(first.n)),
            (say("Importance"), say("{share} of what varies", share=numbers.percent(100 * driver.importance))),
            (
                say("Test"),
                say(
                    "all its effects together; {p}, q = {q} among all factors",
                    p=numbers.p_value(driver.p),
                    q=f"{driver.q:.2g}",
                ),
            ),
        ),
        sql=f"SELECT {found.outcome.measure.sql} AS value FROM source WHERE {where}",
        expect=() if value is None else (("value", repr(value)),),
    )


def _of(found: Found, where: str) -> float | None:
    about = found.outcome
    frame = about.table.sql(f"SELECT {about.measure.sql} AS value FROM source WHERE {where}")
    value = frame["value"].iloc[0]
    return None if value is None or value != value else float(value)


def segments_section(first: Segment, found: Found) -> Section:
    claim = said.segment(first, found)
    more = [f"{said.segment(segment, found)}. {said.segment_detail(segment, found)}" for segment in found.segments[1:4]]
    return Section(
        id="segments",
        claim=f"{claim}.",
        detail=" ".join([said.segment_detail(first, found), *more]),
        chart=charts.draw_segments(found, claim),
        evidence=(
            (say("Rows"), numbers.whole(first.n)),
            (
                say("Found"),
                say("on one half of the rows, estimated on the other; {n} are sure", n=len(found.every_segment)),
            ),
            (say("Test"), say("against the rest; {p}", p=numbers.p_value(first.p))),
        ),
        sql=f"SELECT {found.outcome.measure.sql} AS value, count(*) AS n FROM source WHERE {first.sql}",
        expect=(("value", repr(first.value)),),
    )
