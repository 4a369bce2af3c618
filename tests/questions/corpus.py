"""Questions with what they should give, and how an answer is judged: by SQL, never by what the code printed."""

from __future__ import annotations

import json
import math
import tomllib
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any

import golden_almanac as ga
from golden_almanac.api.calls import request_for
from golden_almanac.asking import read

from . import tables

HOME = Path(__file__).parent
#: The files of the first half, written before the grammar, and of the second, written after it was done.
FIRST = ("sailings", "survey", "moorings", "harbours")
SECOND = (
    "sailings_later", "survey_later", "moorings_later", "harbours_later",
    "sailings_last", "survey_last", "moorings_last", "harbours_last",
)  # fmt: skip


@dataclass(frozen=True)
class Entry:
    table: str
    ask: str
    want: dict[str, Any]


def entries(*names: str) -> Iterator[Entry]:
    for name in names:
        told = tomllib.loads((HOME / f"{name}.toml").read_text(encoding="utf-8"))
        for one in told["question"]:
            want = dict(one)
            yield Entry(told["table"], want.pop("ask"), want)


def judge(entry: Entry, ask: str | None = None) -> tuple[str, str]:
    """right, wrong or missed, with what came."""
    return _judged(entry.table, entry.ask if ask is None else ask, json.dumps(entry.want))


@cache
def _judged(name: str, ask: str, wanted: str) -> tuple[str, str]:
    entry = Entry(name, ask, json.loads(wanted))
    table = tables.table(entry.table)
    reading = read(ask, table)
    if reading.call is None:
        # A question that no answer fits is answered well by a refusal.
        return ("right" if entry.want.get("unanswerable") else "missed"), reading.problem
    told = f"{reading.call.name} {reading.call.arguments}"
    want = entry.want
    if "also" in want and reading.call.name in want["also"]:
        return "right", told
    if want.get("call"):
        return ("right" if _same_call(table, reading.call, want) else "wrong"), told
    if "rows" in want:
        if reading.call.name != "list_rows":
            return "wrong", told
        where = reading.call.arguments.get("where", "TRUE")
        return ("right" if _same_rows(table, where, want["rows"]) else "wrong"), told
    if reading.call.name not in ("total", "list_rows"):
        return "wrong", told
    try:
        found = request_for(reading.call.name, table, reading.call.arguments).run()
    except ga.AlmanacError as problem:
        return "missed", f"{told}: {problem}"
    expected = frame_of(table, want["sql"])
    if "chart" in want and reading.call.arguments.get("kind", want["chart"]) != want["chart"]:
        return "wrong", told
    return ("right" if _same_figures(found.to_frame(), expected, want) else "wrong"), told


def _same_call(table: ga.Table, call: Any, want: dict[str, Any]) -> bool:
    if call.name != want["call"]:
        return False
    for name, value in want.get("args", {}).items():
        got = call.arguments.get(name)
        if (list(got) if isinstance(got, tuple) else got) != value:
            return False
    return _same_rows(table, call.arguments.get("where", "TRUE"), want.get("kept", "TRUE"))


def _same_rows(table: ga.Table, where: str, expected: str) -> bool:
    sql = f"SELECT count(*) AS n FROM source WHERE (({where}) IS TRUE) <> (({expected}) IS TRUE)"
    return int(frame_of(table, sql)["n"][0]) == 0


def frame_of(table: ga.Table, sql: str) -> Any:
    """What a statement of ours gives: it need not be held to reading."""
    return table.store.query(sql).to_pandas()


def _same_figures(found: Any, expected: Any, want: dict[str, Any]) -> bool:
    figure = want.get("figure")
    column = figure if figure in found.columns else None
    if column is None:
        names = [name for name in found.columns if name == "share"]
        column = names[0] if names and found[names[0]].notna().any() else None
    labels = expected.shape[1] - 1
    if column is None:
        if want.get("figures_only"):
            order = [name for name in found.columns if str(found[name].dtype) != "object"]
            wanted = expected.columns[-1]
            column = wanted if wanted in found.columns else order[-1]
        else:
            column = found.columns[labels]
    if len(found) != len(expected):
        return False
    got = [_key(row, found, column, labels, want) for row in range(len(found))]
    hoped = [_key(row, expected, expected.columns[-1], labels, want) for row in range(len(expected))]
    if not want.get("ordered"):
        got, hoped = sorted(got, key=repr), sorted(hoped, key=repr)
    return all(_alike(a, b) for a, b in zip(got, hoped, strict=True))


def _key(row: int, frame: Any, column: Any, labels: int, want: dict[str, Any]) -> tuple[Any, ...]:
    value = frame[column].iloc[row]
    figure = None if value is None or value != value else round(float(value), 6)
    if want.get("figures_only"):
        return (figure,)
    texts = sorted(_text(frame.iloc[row, place]) for place in range(labels))
    return (*texts, figure)


def _text(value: Any) -> str:
    text = str(value)
    if isinstance(value, bool) or text in ("True", "False"):
        return {"True": "yes", "False": "no"}[text]
    return text[:10] if len(text) >= 10 and text[4] == "-" and text[7] == "-" else text.removesuffix(".0")


def _alike(first: tuple[Any, ...], second: tuple[Any, ...]) -> bool:
    if first[:-1] != second[:-1]:
        return False
    a, b = first[-1], second[-1]
    if a is None or b is None:
        return a is b
    return math.isclose(a, b, rel_tol=1e-6, abs_tol=1e-6)
