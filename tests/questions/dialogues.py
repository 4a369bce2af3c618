"""Dialogues: those written down, and those that a rule makes of what a table has, with SQL of its own for each turn."""

from __future__ import annotations

import tomllib
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import golden_almanac as ga

from . import tables
from .corpus import HOME, _same_figures, frame_of


@dataclass(frozen=True)
class Dialogue:
    table: str
    turns: tuple[tuple[str, str], ...]


def dialogues() -> Iterator[Dialogue]:
    told = tomllib.loads((HOME / "dialogues.toml").read_text(encoding="utf-8"))
    for one in told["dialogue"]:
        yield Dialogue(one["table"], tuple((ask, want) for ask, want in one["turns"]))
    yield from _made()


#: A table, its measures as said and in SQL, its columns of labels with one label of each, its column of dates.
_OF: tuple[tuple[str, tuple[tuple[str, str], ...], tuple[tuple[str, str, str], ...], str], ...] = (
    (
        "sailings",
        (("revenue", "revenue"), ("vehicles", "vehicles"), ("fuel cost", "fuel_cost"), ("passengers", "passengers")),
        (("route", "route", "Gannet Line"), ("port", "port", "Longstrand"), ("fare class", "fare_class", "Saver"),
         ("channel", "channel", "Web"), ("vessel", "vessel", "Petrel")),
        "date",
    ),
    (
        "harbours",
        (("grain imports", "grain_imports_t"), ("crab landed", "crab_landed_t"), ("yacht visits", "yacht_visits")),
        (("harbour", "harbour", "Corrick"), ("coast", "coast", "East")),
        "month",
    ),
)  # fmt: skip


def _made() -> Iterator[Dialogue]:
    """Forty dialogues: by one column, then another, a span, a label, an order, another measure."""
    made = 0
    for round_ in range(8):
        for table, measures, columns, time in _OF:
            for k in range(3):
                said, name = measures[(round_ + k) % len(measures)]
                other_said, other = measures[(round_ + k + 1) % len(measures)]
                (by_said, by, _), (next_said, following, label) = (
                    columns[(round_ + place + k) % len(columns)] for place in (0, 1)
                )
                year = 2023 + (round_ + k) % 2
                where = f"year({time}) = {year}"
                one = f"{where} AND {following} = '{label}'"
                turns = [(f"{said} by {by_said}", _sums(by, name, "TRUE")), (f"only {year}", _sums(by, name, where))]
                if round_ % 2:
                    turns += [(f"for {label}", _sums(by, name, one)), (f"and {other_said}?", _sums(by, other, one))]
                else:
                    best = f"{_sums(following, name, where)} ORDER BY 2 DESC LIMIT 2"
                    turns += [(f"and by {next_said}?", _sums(following, name, where)), ("the top 2", best)]
                made += 1
                if made <= 40:
                    yield Dialogue(table, tuple(turns))


def _sums(by: str, name: str, where: str) -> str:
    return f"SELECT {by}, sum({name}) FROM source WHERE {where} GROUP BY 1"


def judged(one: Dialogue) -> list[tuple[str, str, str]]:
    """right, wrong or missed for each turn."""
    table = tables.table(one.table)
    talk = ga.Conversation(table=table)
    made = []
    for ask, want in one.turns:
        answer = talk.ask(ask)
        if want == "skip":
            continue
        told = "" if answer.request is None else answer.request.as_call()
        if answer.found is None:
            made.append((ask, "missed", answer.problem or answer.reading.problem))
            continue
        if want.startswith("call "):
            right = answer.request is not None and answer.request.call == want.removeprefix("call ")
        else:
            figure: dict[str, Any] = {}
            if want.startswith("figure change "):
                figure, want = {"figure": "change"}, want.removeprefix("figure change ")
            right = _same_figures(answer.to_frame(), frame_of(table, want), figure)
        made.append((ask, "right" if right else "wrong", told))
    return made
