"""Cells of charts against SQL over the source: series of measures period by period, and tables of one SELECT.

What a column of cells holds is found out, not taken on trust: it is compared with plain groupings of the measure that
the chart is about. A column that nearly all of a grouping agrees with (or is proportional to, where it is an index) is
that grouping, and cells that do not are differences. Other columns (fitted lines, ranges, shares of a change) are left
to the comparison with the edition that is made again.
"""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from ..aggregation.measures import parse_measure
from ..analysis.scan_pipeline import timeline_for
from ..reports.brief import Brief
from ..reports.page_model import Section
from ..sql.expressions import quote_name
from ..support.errors import AlmanacError
from ..tables import Grain, Table, Timeline

#: Relative difference up to which two figures are the same, and the share of cells by which a column is known.
_SAME, _KNOWN = 1e-9, 0.9
#: Cells that a column must have to be known by them, and to be known as an index.
_LEAST, _LEAST_SCALED = 2, 4


@dataclass(frozen=True, slots=True, kw_only=True)
class CheckedCell:
    """A cell: its `place` in the file, what it says and what SQL gives; `scaled` where it is an index of that."""

    file: str
    place: str
    said: float
    gives: float
    scaled: bool

    @property
    def agrees(self) -> bool:
        return _same(self.said, self.gives)


def checked_cells(
    folder: Path, table: Table, brief: Brief, findings: Sequence[Mapping[str, Any]], sections: Sequence[Section]
) -> Iterator[CheckedCell]:
    """The cells of charts that SQL over the source gives, each with what it gives."""
    line = timeline_for(table, brief.get("time"), brief.get("grain"))
    known = {str(one["id"]): one for one in findings}
    whole = [one["sql"] for one in brief.get("measure", ())] + list(brief.get("measures", ()))
    # Some findings are of rows or of two columns, and of no measure.
    whole += [one["measure"] for one in findings if one["measure"]]
    series = _Groupings(table, line)
    for path in sorted((folder / "cells").glob("[0-9]*-*.csv")):
        heads, rows = _read(path)
        if len(rows) < _LEAST:
            continue
        key = path.stem.partition("-")[2]
        if heads[0] == "period" and line is not None:
            finding = known.get(key)
            wanted = series.of_finding(finding) if finding is not None else series.of_whole(whole, rows)
            yield from _columns(path, heads, rows, wanted)
            continue
        if key in known and known[key]["by"] and known[key]["measure"]:
            yield from _columns(path, heads, rows, series.by_label(known[key]))
            continue
        section = next((one for one in sections if one.id == key), None)
        if section is not None and section.sql:
            yield from _columns(path, heads, rows, _selected(table, section.sql, len(heads)))


def _read(path: Path) -> tuple[list[str], list[list[str]]]:
    try:
        lines = list(csv.reader(io.StringIO(path.read_text(encoding="utf-8"))))
    except (OSError, UnicodeDecodeError, csv.Error):
        return [""], []
    if not lines or any(len(row) != len(lines[0]) for row in lines):
        return [""], []
    return lines[0], lines[1:]


_Column = Mapping[str, float]


class _Groupings:
    """Measures by period, each grouped once."""

    def __init__(self, table: Table, line: Timeline | None) -> None:
        self.table, self.line = table, line
        self._made: dict[tuple[str, str, Grain], _Column] = {}

    def of_finding(self, finding: Mapping[str, Any]) -> Iterator[_Column]:
        """The measure of a finding in its slice, and outside it."""
        if not finding["measure"]:
            return
        grain = Grain((finding.get("period") or {}).get("grain") or self._grain)
        slice_sql = finding.get("sql")
        wheres = ["TRUE"]
        if slice_sql:
            rest = f"({slice_sql}) IS NOT TRUE"
            by = finding.get("by")
            # All the others are those with a label, or all other rows.
            wheres += [slice_sql, *([f"{rest} AND {quote_name(by)} IS NOT NULL"] if by else []), rest]
        for where in wheres:
            yield self._grouped(finding["measure"], where, grain)

    def of_whole(self, measures: Sequence[str], rows: Sequence[Sequence[str]]) -> Iterator[_Column]:
        for measure in dict.fromkeys(measures):
            yield self._grouped(measure, "TRUE", self._grain)

    def by_label(self, finding: Mapping[str, Any]) -> Iterator[_Column]:
        """The measure of a finding for each label of its column, in its period or over all."""
        measure, period = parse_measure(finding["measure"], self.table), finding.get("period")
        if measure.level:
            return
        wheres = ["TRUE"]
        if period is not None and self.line is not None:
            day = f"CAST({quote_name(self.line.column)} AS DATE)"
            wheres.insert(0, f"{day} BETWEEN DATE '{period['start']}' AND DATE '{period['end']}'")
        for where in wheres:
            label = self.table.label_sql(finding["by"])
            yield _run(self.table, f"SELECT {label}, {measure.sql} FROM source WHERE {where} GROUP BY 1")

    @property
    def _grain(self) -> Grain:
        assert self.line is not None
        return self.line.grain

    def _grouped(self, text: str, where: str, grain: Grain) -> _Column:
        assert self.line is not None
        key = (text, where, grain)
        if key not in self._made:
            measure = parse_measure(text, self.table)
            period = f"CAST({self.line.calendar.sql(grain, quote_name(self.line.column))} AS DATE)"
            sql = f"SELECT {period} AS period, {measure.sql} AS value FROM source WHERE {where} GROUP BY 1"
            # What a level is at the end of a period, no plain grouping gives.
            self._made[key] = {} if measure.level else _run(self.table, sql)
        return self._made[key]


def _selected(table: Table, sql: str, heads: int) -> Iterator[_Column]:
    """The figures of a SELECT by its labels, each of its columns of figures."""
    try:
        frame = table.sql(sql)
    except AlmanacError:
        return
    for name in frame.columns[1:]:
        if frame[name].dtype.kind in "if" and len(frame) > 1 and heads > 1:
            yield {str(label): float(value) for label, value in zip(frame.iloc[:, 0], frame[name], strict=True)}


def _run(table: Table, sql: str) -> _Column:
    try:
        frame = table.sql(sql)
    except AlmanacError:
        return {}
    return {
        _key(first): float(value) for first, value in zip(frame.iloc[:, 0], frame.iloc[:, 1], strict=True)
        if value is not None and first is not None
    }  # fmt: skip


def _key(first: Any) -> str:
    """A label, or the day that a period begins with."""
    return first if isinstance(first, str) else str(first)[:10]


def _columns(
    path: Path, heads: Sequence[str], rows: Sequence[Sequence[str]], wanted: Iterator[_Column]
) -> Iterator[CheckedCell]:
    """Each column of figures with the first grouping that it is known by."""
    open_columns = set(range(1, len(heads)))
    for came in wanted:
        for place in sorted(open_columns):
            cells = [(row[0], said, came[row[0]]) for row in rows if (said := _number(row[place])) is not None
                     and row[0] in came and math.isfinite(came[row[0]])]  # fmt: skip
            factor = _factor(cells)
            if factor is None:
                continue
            open_columns.discard(place)
            for label, said, gives in cells:
                yield CheckedCell(
                    file=f"cells/{path.name}",
                    place=f"{label} {heads[place]}",
                    said=said,
                    gives=gives * factor,
                    scaled=factor != 1.0,
                )


def _factor(cells: Sequence[tuple[str, float, float]]) -> float | None:
    """By what a grouping is to be taken to give nearly all cells: 1, or that of an index; None where it gives them
    not."""
    if len(cells) < _LEAST:
        return None
    ratios = [said / gives for _, said, gives in cells if gives]
    scaled = [float(np.median(ratios))] if len(ratios) >= _LEAST_SCALED else []
    for factor in (1.0, *scaled):
        if not factor or not math.isfinite(factor):
            continue
        agree = sum(_same(said, gives * factor) for _, said, gives in cells)
        if agree >= _KNOWN * len(cells) and any(gives for _, _, gives in cells):
            return factor
    return None


def _number(text: str) -> float | None:
    try:
        value = float(text)
    except ValueError:
        return None
    return value if math.isfinite(value) else None


def _same(one: float, other: float) -> bool:
    return abs(one - other) <= _SAME * max(1.0, abs(one), abs(other))
