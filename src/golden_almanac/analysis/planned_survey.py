"""The survey of what was beside what was planned: both as measures over the same rows, where a table has a plan."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ..aggregation import Survey
from ..aggregation.hierarchies import parents
from ..aggregation.measure_names import spoken
from ..aggregation.measures import Measure, parse_measure
from ..sql.expressions import quote_name, quote_value
from ..tables import Column, Role, Table, Timeline
from ..tables.meaning.mixed_units import mixed_units_of
from ..tables.meaning.scenarios import scenarios_in, scenarios_of

#: Of several plans, the one that what was is set against first; last year is none.
_ORDER = ("budget", "plan", "target", "forecast")


def planned_survey(
    whole: Table,
    read: Table,
    measures: Sequence[Measure],
    dimensions: Sequence[Column],
    line: Timeline | None,
    least_rows: int,
) -> Survey | None:
    """What was and what was planned, of each plain sum among the measures; None where there is no plan, or no time.

    `whole` is the table with its plan, `read` its rows that are reported on.
    """
    if line is None:
        return None
    plain = [one for one in measures if one.additive and not one.level and len(one.top) == 1 and one.top[0][1].column]
    labels = scenarios_of(whole)
    if labels is not None:
        kinds = {kind: label for label, kind in labels.kinds.items()}
        name = next((kinds[kind] for kind in _ORDER if kind in kinds and kinds[kind] != labels.read), None)
        if name is None:
            return None
        pairs = [
            (_of_label(whole, one, labels.column, labels.read), _of_label(whole, one, labels.column, name), name)
            for one in plain
            if one.top[0][1].kind == "sum"
        ]
        units = mixed_units_of(whole)
        table = whole if units is None or units.beside else whole.filter(whole.equals(units.column, units.read))
        table = table.set_roles({labels.column: "ignored"})
    else:
        pairs = [pair for one in plain for pair in [_of_column(read, one)] if pair is not None]
        table = read
    if not pairs:
        return None
    days, _ = table.day_counts(line.column)
    if days[0] < line.first_day or days[-1] > line.last_day:
        # A plan goes on where what was ends.
        day = f"CAST({quote_name(line.column)} AS DATE)"
        table = table.filter(f"{day} BETWEEN DATE '{line.first_day}' AND DATE '{line.last_day}'")
    kept = tuple(table.column(column.name) for column in dimensions)
    return Survey(
        table=table,
        measures=tuple(dict.fromkeys(measure for was, plan, _ in pairs for measure in (was, plan))),
        dimensions=tuple(column for column in kept if column.role is not Role.IGNORED),
        timeline=line,
        parents=parents(table, kept),
        plans=tuple(pairs),
        least_rows=least_rows,
    )


def _of_label(table: Table, measure: Measure, column: str, label: str) -> Measure:
    """The sum over the rows of one scenario."""
    name = str(measure.top[0][1].column)
    rows = f"CASE WHEN {quote_name(column)} = {quote_value(label)} THEN {quote_name(name)} END"
    made = parse_measure(f"sum({rows})", table)
    return replace(made, label=measure.label, unit=measure.unit)


def _of_column(table: Table, measure: Measure) -> tuple[Measure, Measure, str] | None:
    """A sum and that of the column with its plan."""
    own = measure.top[0][1].column
    beside = {scenarios_in(column.name)[0]: column.name for column in table.columns if column.beside == own}
    name = next((beside[kind] for kind in _ORDER if kind in beside), None)
    return None if name is None else (measure, parse_measure(quote_name(name), table), spoken(name))
