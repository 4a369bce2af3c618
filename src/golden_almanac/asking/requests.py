"""What was asked as a call of the library, with its arguments: nothing is computed here."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ..tables import Table
from .asked import Asked, Measured, Problem
from .lexicon import lexicon
from .measuring import sql_of
from .standing_jobs import dates_of


@dataclass(frozen=True, slots=True, kw_only=True)
class Call:
    """A call of the library by its name, with its arguments but the source; `where` among them."""

    name: str
    arguments: dict[str, Any]


#: Kinds of finding that answer a question by a scan.
_KINDS = {"trend": ("trend",), "season": ("seasonality",), "unusual": ("outlier", "spike"), "describe": None}


def call_of(asked: Asked, table: Table, defined: Mapping[str, str] | None = None) -> Call:
    """The call; `defined` are measures that were described, with their SQL. Raises Problem where one of its parts does
    not go with the others."""
    averaged = lexicon().averaged
    measures = tuple(_scaled(_measure(one, table, averaged, defined or {}), one, asked.scale) for one in asked.measures)
    if any(one.column in (defined or {}) for one in asked.measures) and asked.intent in ("drivers", "difference"):
        raise Problem("Of a described measure only totals and their changes can be told.", "no call")
    given: dict[str, Any] = {}
    if asked.where is not None:
        given["where"] = asked.where
    if asked.intent == "total":
        given |= _told(
            measures=measures if measures != ("count(*)",) else None,
            by=asked.by or None, grain=asked.grain, cycle=asked.cycle, period=asked.period, baseline=asked.baseline,
            per=asked.per, share=asked.share, running=asked.running, order=asked.order,
            ranked_by=asked.ranked_by if asked.ranked_by != "value" else None, top=asked.top, above=asked.above,
            below=asked.below, kind=asked.chart if asked.chart not in (None, "any") else None,
        )  # fmt: skip
        return Call(name="total", arguments=given)
    if asked.intent == "rows":
        given |= _told(order=asked.row_order, descending=asked.order == "descending", top=asked.top)
        return Call(name="list_rows", arguments=given)
    if asked.intent == "why":
        given |= _told(measure=measures[0], period=asked.period, baseline=asked.baseline, by=asked.by or None)
        return Call(name="explain_change", arguments=given)
    if asked.intent == "outlook":
        given |= _told(
            measure=measures[0], periods=asked.ahead, grain=asked.grain, by=asked.by[0] if asked.by else None
        )
        return Call(name="forecast", arguments=given)
    if asked.intent == "drivers":
        given |= _told(outcome=asked.measures[0].column, factors=asked.by or None)
        return Call(name="find_drivers", arguments=given)
    if asked.intent == "relation" and asked.pair is not None:
        given |= {"x": asked.pair[0], "y": asked.pair[1]}
        return Call(name="relate", arguments=given)
    if asked.intent == "difference":
        given |= {"outcome": asked.measures[0].column, "by": asked.by[0]}
        return Call(name="compare", arguments=given)
    if asked.intent == "glance":
        given |= _told(measures=measures or None, period=asked.period)
        return Call(name="key_figures", arguments=given)
    if asked.intent == "staying":
        active, joined = dates_of(table)
        given |= _told(member=asked.by[0], active=active, joined=joined)
        return Call(name="cohorts", arguments=given)
    if asked.intent == "books":
        return Call(name="review_ledger", arguments=given | {"account": asked.by[0]})
    if asked.intent in _KINDS:
        given |= _told(measures=measures or None, by=asked.by or None, grain=asked.grain, kinds=_KINDS[asked.intent])
        return Call(name="scan", arguments=given)
    raise Problem("There is no call that answers this.", "no call")


def _measure(one: Measured, table: Table, averaged: tuple[str, ...], defined: Mapping[str, str]) -> str:
    if one.column is not None and one.column in defined:
        return f'{defined[one.column]} AS "{one.column}"'
    sql = sql_of(one, table, averaged)
    return f'{sql} AS "{one.name}"' if one.name else sql


_SCALES = {"thousands": 1_000, "millions": 1_000_000, "billions": 1_000_000_000}


def _scaled(sql: str, one: Measured, scale: str | None) -> str:
    """The measure in thousands or millions, and called so."""
    if scale is None or " AS " in sql or "(" not in sql:
        return sql
    name = (one.column or "rows").replace("_", " ").replace('"', "")
    return f'{sql} / {_SCALES[scale]} AS "{name} ({scale})"'


def _told(**given: Any) -> dict[str, Any]:
    return {name: value for name, value in given.items() if value is not None and value is not False}
