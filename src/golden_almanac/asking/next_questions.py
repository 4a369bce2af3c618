"""Questions worth asking next, or first: each reads as it stands."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ..findings import Finding
from ..tables import Column, Role, Table
from . import measuring
from .asked import Asked, Filter, Measured
from .lexicon import lexicon
from .reader import read
from .wording import question_of

#: Labels that a chart or a list can hold.
_MOST_LABELS = 60
#: First questions that lead to findings.
_FROM_FINDINGS = 2


def after(asked: Asked, table: Table, most: int = 3) -> tuple[str, ...]:
    """Questions that follow on from one: by another column, over time, why."""
    return _readable(_following(asked, table), table, most)


def others(asked: Asked, table: Table, most: int = 2) -> tuple[str, ...]:
    """Other readings of a question that ranks labels and named no aggregate: by the average of the rows, by the highest
    of them."""
    return _readable(_otherwise(asked, table), table, most)


def _otherwise(asked: Asked, table: Table) -> Iterator[Asked]:
    if asked.intent != "total" or len(asked.measures) != 1 or asked.order is None:
        return
    one = asked.measures[0]
    if one.said or one.aggregate or one.over or one.condition or one.column not in table.names:
        return
    column = table.column(one.column or "")
    if column.type != "number" or column.weighed is not None or column.weights:
        return
    averaged = not column.adds_up or measuring.is_averaged(column, lexicon().averaged)
    wanted = ("max",) if averaged else ("mean", "max")
    for aggregate in wanted if asked.order == "descending" else (*wanted[:-1], "min"):
        yield asked.but(measures=(Measured(aggregate=aggregate, column=column.name, said=True),))


def first(table: Table, most: int = 10, findings: Sequence[Finding] = ()) -> tuple[str, ...]:
    """Questions to begin with, of different kinds: two that lead to findings, if at hand, else from columns."""
    found = _readable(_of_findings(findings, table), table, _FROM_FINDINGS)
    return (*found, *(one for one in _readable(_beginning(table), table, most) if one not in found))[:most]


def _of_findings(findings: Sequence[Finding], table: Table) -> Iterator[Asked]:
    """What moved in a slice, asked after: "trend of revenue in channel Agents"."""
    for finding in findings:
        measure, conditions = finding.measure, finding.where.conditions
        if finding.kind not in ("trend", "shift") or measure is None or len(conditions) != 1 or len(measure.top) != 1:
            continue
        column, label = conditions[0]
        own = measure.top[0][1].column
        if label is None or own not in table.names or table.column(column).type != "text":
            continue
        of_label = Filter(sql=table.equals(column, label), column=column, words=label, labels=(label,))
        yield Asked(intent="trend", measures=(Measured(aggregate="", column=own),), filters=(of_label,))


def _readable(wanted: Iterator[Asked], table: Table, most: int) -> tuple[str, ...]:
    """Those that are read as they were meant."""
    made: list[str] = []
    for one in wanted:
        text = question_of(one, table)
        reading = read(text, table)
        if reading.asked is not None and text not in made and reading.asked.intent == one.intent:
            made.append(text)
        if len(made) == most:
            break
    return tuple(made)


def _dimensions(table: Table) -> list[Column]:
    return [column for column in table.with_role(Role.DIMENSION) if 2 <= column.distinct <= _MOST_LABELS]


def _following(asked: Asked, table: Table) -> Iterator[Asked]:
    measures = asked.measures or (measuring.lead(table),)
    dated = bool(table.with_role(Role.TIME))
    plain = Asked(measures=measures[:1], filters=asked.filters)
    others = [column.name for column in _dimensions(table) if column.name not in asked.by and column.name not in {
        one.column for one in asked.filters}]  # fmt: skip
    if (
        asked.intent != "why"
        and dated
        and measures[0].condition == ""
        and measures[0].aggregate in ("", "total", "mean", "rate", "sum")
    ):
        period = asked.period if asked.period and len(asked.period) <= 7 else None
        yield plain.but(intent="why", period=period)
    if others:
        yield plain.but(by=(others[0],), period=asked.period)
    if dated and asked.grain is None:
        yield plain.but(grain="month")
    for name in others[1:]:
        yield plain.but(by=(name,), period=asked.period)
    column = measures[0].column if measures[0].column in table.names else None
    if column is not None and asked.intent != "drivers" and table.column(column).adds_up is False:
        yield Asked(intent="drivers", measures=(Measured(aggregate="", column=column),), filters=asked.filters)
    if dated and asked.intent != "trend":
        yield plain.but(intent="trend")


def _beginning(table: Table) -> Iterator[Asked]:
    lead = measuring.lead(table)
    dimensions = _dimensions(table)
    dated = bool(table.with_role(Role.TIME))
    numbers = [column for column in table.with_role(Role.MEASURE) if column.type == "number"]
    flags = [column for column in table.columns if column.type == "boolean" and column.role is not Role.IGNORED]
    rates = [column for column in numbers if column.adds_up is False]
    if dimensions:
        yield Asked(measures=(lead,), by=(dimensions[0].name,))
    if dated:
        yield Asked(measures=(lead,), grain="month")
        yield Asked(intent="why", measures=(lead,))
    if len(dimensions) > 1:
        yield Asked(measures=(lead,), by=(dimensions[1].name,), order="descending", top=3)
    outcome = next(iter([*rates, *flags]), None)
    if outcome is not None:
        yield Asked(intent="drivers", measures=(Measured(aggregate="", column=outcome.name),))
        if dimensions:
            yield Asked(
                intent="difference", measures=(Measured(aggregate="", column=outcome.name),), by=(dimensions[-1].name,)
            )
    if dated:
        yield Asked(intent="season", measures=(lead,))
    if len(numbers) > 1:
        pair = [column.name for column in numbers[:2]]
        yield Asked(intent="relation", pair=(pair[0], pair[1]))
    if flags and dimensions:
        yield Asked(measures=(Measured(aggregate="rate", column=flags[0].name),), by=(dimensions[0].name,))
    yield Asked(intent="unusual", measures=(lead,) if lead.column else ())
    if dimensions:
        yield Asked(measures=(Measured(aggregate="count"),), by=(dimensions[0].name,))
        if lead.column:
            yield Asked(measures=(lead,), by=(dimensions[-1].name,), share=True)
    if dated:
        yield Asked(intent="trend", measures=(lead,))
    for column in numbers[:4]:
        yield Asked(measures=(Measured(aggregate="", column=column.name),))
        yield Asked(measures=(Measured(aggregate="max", column=column.name, said=True),))
    yield Asked(intent="describe")
    yield Asked(measures=(Measured(aggregate="count", said=True),))
