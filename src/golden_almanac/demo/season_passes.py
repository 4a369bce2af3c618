"""Trips of those who hold a season pass of Pellow Sound Ferries, a row a trip, the same bytes on every machine.

Holders lapse and do not come back. Planted (`stories.toml`): those who joined with a half-price offer lapse twice as
fast, and newcomers come more and more by the web. The rest is chance.
"""

from __future__ import annotations

import tomllib
from datetime import date, timedelta
from importlib.resources import files
from typing import Any

import numpy as np

_FIRST, _LAST = (2023, 1), date(2025, 9, 30)
_SEED = 20_230_101
#: Newcomers a month, the part of holders that lapses in one, and trips of one who travels, at most.
_JOIN, _LAPSE, _TRIPS = 36, 0.12, 3
_PORTS = ("Pellow Quay", "Skerry Haven", "Longstrand")


def trips_csv() -> bytes:
    """The log as CSV: pass_id, joined, channel, home_port, day, fare."""
    random = np.random.default_rng(_SEED)
    planted = {story["id"]: story for story in _stories()["pass_story"]}
    offer, web = planted["half-price-offer"], planted["web-newcomers"]
    lines = ["pass_id,joined,channel,home_port,day,fare"]
    number, rows = 0, []
    for month, (year, part) in enumerate(_months()):
        begin = date(year, part, 1)
        offered = f"{year}-{part:02d}" == offer["month"]
        lapse = _LAPSE * (offer["times"] if offered else 1.0)
        for _ in range(int((_JOIN - 6 + int(random.random() * 13)) * (offer["joiners"] if offered else 1))):
            number += 1
            joined = begin + timedelta(days=int(random.random() * 27))
            channel = "Web" if random.random() < web["share"] + web["monthly"] * month else "Counter"
            port = _PORTS[int(random.random() ** 1.6 * 3)]
            day = joined
            while day <= _LAST:
                for trip in range(1 + int(random.random() * _TRIPS)):
                    on = day if trip == 0 else day.replace(day=1 + int(random.random() * 27))
                    if on >= joined:
                        fare = round(4.5 + 9 * random.random(), 2)
                        rows.append((on, f"P{number:05d},{joined},{channel},{port},{on},{fare}"))
                if random.random() < lapse:
                    break
                day = (day.replace(day=1) + timedelta(days=32)).replace(day=1 + int(random.random() * 27))
    return ("\n".join([*lines, *(text for _, text in sorted(rows))]) + "\n").encode()


def _months() -> list[tuple[int, int]]:
    year, part = _FIRST
    made = []
    while date(year, part, 1) <= _LAST:
        made.append((year, part))
        year, part = (year, part + 1) if part < 12 else (year + 1, 1)
    return made


def _stories() -> dict[str, Any]:
    return tomllib.loads(files("golden_almanac.demo").joinpath("stories.toml").read_text("utf-8"))
