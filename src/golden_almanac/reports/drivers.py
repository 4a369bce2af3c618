"""The report of what goes with an outcome: all effects, each driver, the segments, each with its check."""

from __future__ import annotations

from collections.abc import Sequence

from ..charts import drivers as charts
from ..core.drivers import Driver, Found, Segment
from ..words import Summary, names, numbers
from ..words import drivers as said
from .model import Report, Section

_MOST_DRIVERS = 6


def drivers_report(found: Found, summary: Summary, caveats: Sequence[str], title: str | None = None) -> Report:
    """Sections: all effects together, each driver by itself, the segments."""
    about = found.outcome
    table = about.table
    sections = []
    whole = charts.draw_effects(found, summary.headline.rstrip("."))
    if whole is not None and len(found.drivers) > 1:
        listed = names.listed([one.factor.spoken for one in found.drivers[:5]])
        claim = f"What goes with {said.subject(found)}: {listed}"
        sections.append(
            Section(
                id="effects",
                claim=f"{claim}.",
                detail="Most important first; each beside all others.",
                chart=charts.draw_effects(found, claim),
                evidence=_whole(found),
                sql=f"SELECT {about.measure.sql} AS value FROM source",
                expect=(("value", repr(about.overall)),),
            )
        )
    sections += [_driver(one, found) for one in found.drivers[:_MOST_DRIVERS]]
    if found.segments:
        first = found.segments[0]
        sections.append(_segments(first, found))
    made = [
        (
            f"{numbers.whole(table.rows_read)} rows were read from {table.name}; {numbers.whole(about.n)} have the "
            f"outcome."
        ),
        f"Factors: {', '.join(one.spoken for one in found.factors)}.",
        "Effects are least squares beside all other factors; ranges are robust"
        + (" and count weeks." if found.errors != "HC3" else " (HC3)."),
        *(f"Left out: {one.factor}: {one.reason}." for one in found.left_out),
    ]
    return Report(
        title=title or f"What goes with {said.subject(found)}",
        edition=" · ".join(
            [table.name, f"{numbers.whole(about.n)} rows", *([f"where {table.where}"] if table.where else [])]
        ),
        summary=summary,
        keys=(),
        sections=tuple(sections),
        further=tuple(f"{one.factor.spoken}: no clear effect; {one.reason}." for one in found.unclear),
        caveats=(*caveats, *(problem.message for problem in table.problems)),
        made=tuple(made),
    )


def _whole(found: Found) -> tuple[tuple[str, str], ...]:
    about = found.outcome
    return (
        ("Rows", numbers.whole(about.n)),
        ("Overall", numbers.amount(about.overall, about.measure)),
        ("Foretold", f"{numbers.percent(100 * found.foretold)} of what varies, on rows not seen"),
    )


def _driver(one: Driver, found: Found) -> Section:
    first = one.effects[0]
    where = first.sql or "TRUE"
    if one.shape is not None and one.shape.cut is not None:
        from ..core.expressions import quote_name

        where = f"{quote_name(one.factor.column)} > {one.shape.cut.at!r}"
    value = _of(found, where)
    return Section(
        id=f"driver-{one.factor.name}",
        claim=f"{said.driver(one, found)}.",
        detail=said.driver_detail(one, found),
        chart=charts.draw_driver(found, one),
        evidence=(
            ("Rows", numbers.whole(first.n)),
            ("Importance", f"{numbers.percent(100 * one.importance)} of what varies"),
            ("Test", f"all its effects together; {numbers.p_value(one.p)}, q = {one.q:.2g} among all factors"),
        ),
        sql=f"SELECT {found.outcome.measure.sql} AS value FROM source WHERE {where}",
        expect=() if value is None else (("value", repr(value)),),
    )


def _of(found: Found, where: str) -> float | None:
    about = found.outcome
    frame = about.table.sql(f"SELECT {about.measure.sql} AS value FROM source WHERE {where}")
    value = frame["value"].iloc[0]
    return None if value is None or value != value else float(value)


def _segments(first: Segment, found: Found) -> Section:
    claim = said.segment(first, found)
    more = [f"{said.segment(one, found)}. {said.segment_detail(one, found)}" for one in found.segments[1:4]]
    return Section(
        id="segments",
        claim=f"{claim}.",
        detail=" ".join([said.segment_detail(first, found), *more]),
        chart=charts.draw_segments(found, claim),
        evidence=(
            ("Rows", numbers.whole(first.n)),
            ("Found", f"on one half of the rows, estimated on the other; {len(found.every_segment)} are sure"),
            ("Test", f"against the rest; {numbers.p_value(first.p)}"),
        ),
        sql=f"SELECT {found.outcome.measure.sql} AS value, count(*) AS n FROM source WHERE {first.sql}",
        expect=(("value", repr(first.value)),),
    )
