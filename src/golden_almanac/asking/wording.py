"""What was asked, said again: a question that reads back to the same request."""

from __future__ import annotations

from ..aggregation.measure_names import spoken
from ..sql.expressions import quote_name
from ..support.english_nouns import plural, singular
from ..tables import Table
from ..tables.meaning.row_nouns import row_noun
from ..tables.yes_no import is_flag
from .asked import Asked, Filter, Measured
from .vocabulary import name_words

_AGGREGATES = {
    "": "", "total": "total", "sum": "total", "mean": "average", "median": "median", "max": "maximum", "min": "minimum",
    "distinct": "number of different", "rate": "rate of",
}  # fmt: skip
_SIGNS = {"/": "divided by", "-": "minus", "+": "plus"}
_CHARTS = {
    "line": "line chart of", "bars": "bar chart of", "stacked": "stacked bars of", "grouped": "grouped bars of",
    "heat": "heat map of", "any": "chart of",
}  # fmt: skip


def question_of(asked: Asked, table: Table) -> str:
    """The question as one would put it to be sure of being understood."""
    where = _where(asked, table)
    span = _span(asked)
    measures = " and ".join(measure_words(one, table) for one in asked.measures)
    by = _by(asked)
    if asked.intent == "why":
        return _joined("why did", measures, "change", where, span, by)
    if asked.intent == "outlook":
        ahead = "" if asked.ahead is None else f"for the next {asked.ahead} {asked.grain}s"
        return _joined(
            "forecast of", measures, ahead, "" if not asked.by else f"by {_column(asked.by[0], table)}", where
        )
    if asked.intent == "glance":
        return _joined("key figures", measures and f"of {measures}", where, span)
    if asked.intent == "staying":
        return _joined("retention of", _column(asked.by[0], table), where)
    if asked.intent == "books":
        return _joined("review of the books by", _column(asked.by[0], table), where)
    if asked.intent == "drivers":
        return _joined("what drives", _column(asked.measures[0].column, table), where)
    if asked.intent == "relation" and asked.pair is not None:
        first, second = (_column(name, table) for name in asked.pair)
        return _joined("relation between", first, "and", second, where)
    if asked.intent == "difference":
        groups = table.column(asked.by[0])
        name = _column(groups.name, table)
        among = f"by {name}" if groups.type in ("boolean", "number") else f"between {plural(name)}"
        return _joined("does", _column(asked.measures[0].column, table), "differ", among, where)
    if asked.intent == "trend":
        return _joined("trend of", measures or "the table", by, where)
    if asked.intent == "season":
        return _joined("is", measures or "it", "seasonal", by, where)
    if asked.intent == "unusual":
        return _joined("unusual values", f"of {measures}" if measures else "", by, where)
    if asked.intent == "describe":
        return _joined("describe", measures or "the table", by, where)
    if asked.intent == "rows":
        return _rows(asked, table, where)
    return _total(asked, table, measures, by, where, span)


def _joined(*parts: str) -> str:
    return " ".join(part for part in parts if part)


def rows_word(table: Table) -> str:
    return row_noun(table, surely=False) or "rows"


def _column(name: str | None, table: Table) -> str:
    """A column as it is asked for: its words without the unit, where no other column has the same."""
    if name is None:
        return ""
    if name not in table.names:
        return name
    own = table.column(name)
    words = " ".join(name_words(own))
    alike = [column for column in table.columns if " ".join(name_words(column)) == words]
    return words if len(alike) == 1 else spoken(own.name)


def measure_words(one: Measured, table: Table) -> str:
    """A measure as it is asked for: "total revenue", "number of sailings"."""
    if one.column is None:
        if one.condition:
            return f"percentage of {rows_word(table)} {_condition(one.condition, table)}"
        return f"number of {rows_word(table)}"
    name = _column(one.column, table)
    if one.condition:
        return f"share of {name} {_condition(one.condition, table)}"
    if one.over is not None:
        return f"{name} {_SIGNS[one.sign]} {_column(one.over, table)}"
    if one.aggregate == "distinct":
        return f"number of different {plural(name)}"
    return _joined(_AGGREGATES[one.aggregate], name)


def _condition(sql: str, table: Table) -> str:
    """A condition inside a measure, as words."""
    from ..analysis.conditions import conditions_of

    where, rest = conditions_of(table_with(table, sql))
    parts = [f'{spoken(column)} "{label}"' for column, label in where.conditions]
    parts += [f"with {_plain(one.column, one.sign, one.values, table)}" if one.column else one.sql for one in rest]
    return " and ".join(parts)


def table_with(table: Table, sql: str) -> Table:
    """The table as if its rows met a condition; its rows are not looked at."""
    from dataclasses import replace

    from ..sql.expressions import condition

    return replace(table, where=condition(sql, table.names))


_SAID = {">": "over", ">=": "at least", "≥": "at least", "<": "under", "<=": "at most", "≤": "at most", "=": "exactly"}


def _plain(column: str, sign: str, values: tuple[object, ...], table: Table) -> str:
    name = _column(column, table)
    if sign == "between":
        return f"{name} between {_number(values[0])} and {_number(values[1])}"
    if values and isinstance(values[0], bool):
        return name if values[0] else f"not {name}"
    if sign in ("in", "not in"):
        listed = " and ".join(f'"{value}"' for value in values)
        return f"{'not ' if sign == 'not in' else ''}{name} {listed}"
    if sign == "≠":
        return f'not {name} "{values[0]}"'
    return f"{name} {_SAID.get(sign, sign)} {_number(values[0]) if values else ''}"


def _number(value: object) -> str:
    return str(int(value)) if isinstance(value, float) and value.is_integer() else str(value)


def filter_words(one: Filter, table: Table) -> str:
    """A condition on rows as it is asked for."""
    if one.labels:
        listed = " and ".join(f'"{label}"' for label in one.labels)
        return f"{'not ' if one.negated else ''}in {spoken(one.column)} {listed}" if not one.negated else (
            f"not {spoken(one.column)} {listed}"
        )  # fmt: skip
    column = table.column(one.column)
    if is_flag(table, column):
        return f"{'not ' if one.negated else ''}{spoken(column.name)}"
    if column.type in ("date", "datetime"):
        return f"in {one.words}"
    return f"with {_column(column.name, table)} {_tail(one, column.name)}"


def _tail(one: Filter, name: str) -> str:
    rest = one.sql.removeprefix(quote_name(name)).strip()
    sign, _, value = rest.partition(" ")
    if sign == "BETWEEN":
        low, _, high = value.partition(" AND ")
        return f"between {low} and {high}"
    if sign == "<>":
        return f"not exactly {value}"
    return f"{_SAID.get(sign, sign)} {value}"


def _where(asked: Asked, table: Table) -> str:
    return " ".join(filter_words(one, table) for one in asked.filters)


def _span(asked: Asked) -> str:
    if asked.period is None:
        return ""
    if asked.baseline is not None and asked.baseline not in ("year-ago", "previous"):
        return f"from {_period(asked.baseline)} to {_period(asked.period)}"
    return f"in {_period(asked.period)}"


def _period(text: str) -> str:
    return text.replace("/", " to ")


def _by(asked: Asked) -> str:
    parts = _broken_down_by(asked)
    return f"by {' and '.join(parts)}" if parts else ""


def _broken_down_by(asked: Asked) -> list[str]:
    """The columns, grain and part of the calendar that it is broken down by."""
    return [*map(spoken, asked.by), *(part for part in (asked.grain, asked.cycle) if part is not None)]


def _rows(asked: Asked, table: Table, where: str) -> str:
    rows = rows_word(table)
    if asked.row_order is None:
        return _joined("list the", rows, where)
    way = "highest" if asked.order == "descending" else "lowest"
    top = f"{asked.top} " if asked.top and asked.top > 1 else ""
    noun = rows if top else singular(rows)
    return _joined("list the", f"{top}{noun}", f"with the {way} {_column(asked.row_order, table)}", where)


def _total(asked: Asked, table: Table, measures: str, by: str, where: str, span: str) -> str:
    if asked.share:
        measures = f"share of {measures}"
    if asked.running:
        measures = f"running total of {measures.removeprefix('total ')}"
    if asked.per is not None:
        measures = f"average {measures.removeprefix('total ')} per {asked.per}"
    if asked.baseline is not None:
        word = "growth" if asked.ranked_by == "change_pct" else "change"
        if asked.baseline == "year-ago" and asked.grain is not None:
            return _joined(measures, by, where, span, "against the year before")
        measures = f"{word} of {measures}"
    chart = _CHARTS.get(asked.chart or "", "")
    limits = ""
    if asked.above is not None:
        limits = f"above {_number(asked.above)}"
    if asked.below is not None:
        limits = _joined(limits, f"below {_number(asked.below)}")
    if asked.order is not None and (asked.by or asked.grain or asked.cycle):
        if asked.top == 1 and len(asked.by) + (asked.grain is not None) == 1 and asked.cycle is None and not chart:
            one = spoken(asked.by[0]) if asked.by else str(asked.grain)
            counted = _is_counted(asked.measures[0], table) and asked.baseline is None and not asked.share
            words = ("most", "fewest") if counted else ("the highest", "the lowest")
            highest = words[asked.order != "descending"]
            return _joined(f"which {one} has {highest} {measures.removeprefix('number of ')}", where, span)
        way = "top" if asked.order == "descending" else "bottom"
        groups = _groups(asked)
        return _joined(chart, f"{way} {asked.top or 5} {groups} by {measures}", where, span)
    if limits:
        return _joined(chart, f"{_groups(asked)} with {measures} {limits}", where, span)
    return _joined(chart, measures, by, where, span)


def _is_counted(one: Measured, table: Table) -> bool:
    """Whether a measure is so many of something: sailings, passengers."""
    if one.condition or one.over or one.aggregate not in ("", "count", "total"):
        return False
    return one.column is None or (one.column in table.names and table.column(one.column).nature == "count")


def _groups(asked: Asked) -> str:
    names = _broken_down_by(asked)
    first = plural(names[0]) if names and names[0] not in (asked.cycle,) else names[0]
    return " and ".join([first, *names[1:]])
