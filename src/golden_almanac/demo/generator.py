"""Daily sailings of Pellow Sound Ferries, the same bytes on every machine.

Only uniform random numbers and plain arithmetic are used: no cosine, logarithm or normal generator
whose last digit may differ from one system to the next.
"""

from __future__ import annotations

import tomllib
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, timedelta
from importlib.resources import files
from typing import Any

import numpy as np

FIRST_DAY, LAST_DAY = date(2022, 9, 1), date(2025, 10, 19)
_SEED = 20_251_019

COLUMNS = (
    "sailing_id",
    "date",
    "region",
    "port",
    "route",
    "vessel",
    "fare_class",
    "channel",
    "crew_rota",
    "capacity",
    "passengers",
    "vehicles",
    "revenue",
    "fuel_cost",
    "delay_min",
    "cancelled",
    "on_time",
    "tide_index",
)


@dataclass(frozen=True, slots=True, kw_only=True)
class _Route:
    name: str
    region: str
    port: str
    departures: float
    load: float
    fare: float
    fuel: float
    delay: float
    vessels: tuple[str, ...]


_ROUTES = (
    _Route(
        name="Harbour Hop",
        region="Inner Sound",
        port="Pellow Quay",
        departures=5.2,
        load=0.50,
        fare=6.4,
        fuel=210,
        delay=3.0,
        vessels=("Sandpiper", "Curlew"),
    ),
    _Route(
        name="Castle Reach",
        region="Inner Sound",
        port="Pellow Quay",
        departures=4.0,
        load=0.54,
        fare=9.8,
        fuel=340,
        delay=3.4,
        vessels=("Curlew", "Puffin", "Petrel"),
    ),
    _Route(
        name="Gannet Line",
        region="North Skerries",
        port="Skerry Haven",
        departures=3.6,
        load=0.60,
        fare=14.5,
        fuel=520,
        delay=4.0,
        vessels=("Fulmar", "Puffin"),
    ),
    _Route(
        name="Skerry Loop",
        region="North Skerries",
        port="Skerry Haven",
        departures=3.0,
        load=0.52,
        fare=12.2,
        fuel=450,
        delay=4.4,
        vessels=("Puffin", "Kittiwake", "Petrel"),
    ),
    _Route(
        name="Outer Bar",
        region="Outer Isles",
        port="Longstrand",
        departures=2.2,
        load=0.58,
        fare=19.5,
        fuel=760,
        delay=10.4,
        vessels=("Tern", "Gannet", "Petrel"),
    ),
    _Route(
        name="Tern Rock",
        region="Outer Isles",
        port="Longstrand",
        departures=3.0,
        load=0.55,
        fare=17.0,
        fuel=690,
        delay=3.2,
        vessels=("Gannet", "Kittiwake", "Petrel"),
    ),
)
_CAPACITY = {
    "Sandpiper": 90,
    "Curlew": 120,
    "Puffin": 140,
    "Petrel": 150,
    "Fulmar": 170,
    "Kittiwake": 160,
    "Tern": 180,
    "Gannet": 200,
    "Shearwater": 216,
}
_FARE_CLASSES = {
    "Saver": (0.24, 0.78, 0.92),
    "Standard": (0.42, 1.0, 1.0),
    "Peak": (0.22, 1.32, 1.14),
    "Night": (0.12, 0.88, 0.74),
}  # share of departures, fare, load
_CHANNELS = {"Web": 0.52, "Counter": 0.28, "Agents": 0.20}
_WEEKDAY = (0.94, 0.90, 0.92, 0.97, 1.10, 1.16, 1.02)
_ROTAS = ("Amber", "Blue", "Coral", "Dune")


def stories() -> dict[str, Any]:
    """What is planted, as read from stories.toml."""
    text = files("golden_almanac.demo").joinpath("stories.toml").read_text(encoding="utf-8")
    return tomllib.loads(text)


def sailings_csv() -> bytes:
    """The sailings as a CSV file."""
    lines = [",".join(COLUMNS), *(",".join(row) for row in sailings())]
    return ("\n".join(lines) + "\n").encode("utf-8")


def sailings() -> Iterator[tuple[str, ...]]:
    """Every departure as a row of text, in the order of COLUMNS, day by day."""
    planted = {story["id"]: story for story in stories()["story"]}
    chance = _Chance(_SEED)
    blind = _Chance(_SEED + 1)  # the noise columns draw from a stream of their own
    days = (LAST_DAY - FIRST_DAY).days
    number = 100_000
    for elapsed in range(days + 1):
        day = FIRST_DAY + timedelta(days=elapsed)
        progress = elapsed / days
        climate = chance.spread(0.04)  # the weather that all routes share on a day
        for route in _ROUTES:
            misread = planted["hundredfold-fuel"]
            wrong = day.isoformat() == misread["day"] and route.name == misread["route"]
            for place in range(_departures(route, day, progress, planted, chance)):
                number += 1
                slip = 100 if wrong and place == 0 else 1
                row = _sailing(number, route, day, progress, climate, slip, planted, chance)
                tide, rota = 50 + blind.spread(9.0), _ROTAS[int(4 * blind.uniform())]
                yield (*row[:8], rota, *row[8:], f"{tide:.1f}")


#: Uniform numbers that add up to a bell-shaped one of spread 1.
_BELL = 12


class _Chance:
    """Uniform numbers, and bell-shaped ones made of them."""

    def __init__(self, seed: int) -> None:
        self._stream = np.random.Generator(np.random.PCG64(seed))
        self._block: list[float] = []

    def uniform(self) -> float:
        if not self._block:
            self._block = self._stream.random(8192).tolist()[::-1]
        return self._block.pop()

    def spread(self, size: float) -> float:
        if len(self._block) < _BELL:
            return size * (sum(self.uniform() for _ in range(_BELL)) - _BELL / 2)
        # Taken from the block at once: the demo asks for them 150,000 times.
        taken = self._block[-_BELL:]
        del self._block[-_BELL:]
        return size * (sum(reversed(taken)) - _BELL / 2)

    def pick(self, shares: dict[str, float]) -> str:
        place = self.uniform() * sum(shares.values())
        for name, share in shares.items():
            place -= share
            if place < 0:
                return name
        return name


def _spread_evenly(place: float, shares: dict[str, float]) -> str:
    """A timetable is no lottery: multiples of an irrational number spread departures evenly."""
    left = (place % 1.0) * sum(shares.values())
    for name, share in shares.items():
        left -= share
        if left < 0:
            return name
    return name


def _departures(route: _Route, day: date, progress: float, planted: dict[str, Any], chance: _Chance) -> int:
    wanted = route.departures
    if route.name == planted["outer-bar-grows"]["where"]["route"]:
        first, last = planted["outer-bar-grows"]["departures"]
        wanted = first + (last - first) * progress
    wanted *= 0.96 + 0.08 * (day.month in (5, 6, 7, 8, 9))
    return int(wanted + chance.uniform())


def _sailing(
    number: int,
    route: _Route,
    day: date,
    progress: float,
    climate: float,
    slip: int,
    planted: dict[str, Any],
    chance: _Chance,
) -> tuple[str, ...]:
    vessel = _vessel(route, day, planted, chance)
    capacity = _CAPACITY[vessel]
    fare_class = _spread_evenly(number * 0.6180339887498949, {name: facts[0] for name, facts in _FARE_CLASSES.items()})
    channel = _spread_evenly(number * 0.7548776662466927, _channels(day, planted))
    _, fare_factor, load_factor = _FARE_CLASSES[fare_class]
    if fare_class == planted["peak-fares"]["where"]["fare_class"] and day.isoformat() >= planted["peak-fares"]["since"]:
        fare_factor *= 1 + planted["peak-fares"]["rise"]
    storm = planted["storm-week"]
    stormy = storm["first"] <= day.isoformat() <= storm["last"]
    cancelled = chance.uniform() < (storm["cancelled"] if stormy else 0.011)
    season = _season(day, planted["season"]["profile"])
    load = route.load * season * _WEEKDAY[day.weekday()] * load_factor * (1 + climate) * (1 + 0.05 * progress)
    # A larger vessel draws more people, but is not filled in proportion.
    people = load * (0.55 * capacity + 0.45 * 150) * max(0.05, 1 + chance.spread(0.13))
    passengers = 0 if cancelled else max(1, min(capacity, round(people)))
    vehicles = 0 if cancelled else max(0, round(0.17 * passengers * (1 + chance.spread(0.22))))
    fare = route.fare * fare_factor * (1 + chance.spread(0.035))
    revenue = passengers * fare + vehicles * 1.9 * route.fare * fare_factor
    fuel = (0.15 if cancelled else 1.0) * route.fuel * (0.55 + capacity / 330) * (1 + chance.spread(0.08))
    fuel *= slip
    delay = _delay(route, vessel, stormy, planted, chance)
    return (
        f"PS{number}",
        day.isoformat(),
        route.region,
        route.port,
        route.name,
        vessel,
        fare_class,
        channel,
        str(capacity),
        str(passengers),
        str(vehicles),
        f"{revenue:.2f}",
        f"{fuel:.2f}",
        "" if cancelled else str(delay),
        "yes" if cancelled else "no",
        "" if cancelled else ("yes" if delay <= 10 else "no"),
    )


def _vessel(route: _Route, day: date, planted: dict[str, Any], chance: _Chance) -> str:
    joins = planted["shearwater-joins"]
    main = 0.62
    if route.name == joins["where"]["route"]:
        second = "Shearwater" if day.isoformat() >= joins["since"] else joins["replaces"]
        return "Fulmar" if chance.uniform() < 0.5 else second
    if chance.uniform() < main:
        return route.vessels[0]
    rest = {name: (0.5 if name == "Petrel" else 1.0) for name in route.vessels[1:]}
    return chance.pick(rest)


def _channels(day: date, planted: dict[str, Any]) -> dict[str, float]:
    fade = planted["agents-fade"]
    since = date.fromisoformat(fade["since"])
    months = max(0.0, (day - since).days / 30.4)
    kept = max(0.2, 1 + fade["monthly"] * months)
    agents = _CHANNELS["Agents"] * kept
    return {"Web": _CHANNELS["Web"] + _CHANNELS["Agents"] - agents, "Counter": _CHANNELS["Counter"], "Agents": agents}


def _season(day: date, profile: list[float]) -> float:
    """The month's factor in mid-month, sliding to the next month's between."""
    place = day.month - 1 + (day.day - 15) / 30.5
    low = int(place // 1) % 12
    part = place - place // 1
    return profile[low] * (1 - part) + profile[(low + 1) % 12] * part


def _delay(route: _Route, vessel: str, stormy: bool, planted: dict[str, Any], chance: _Chance) -> int:
    typical = route.delay + (planted["petrel-late"]["minutes"] if vessel == "Petrel" else 0.0) + 14.0 * stormy
    # Skewed, as delays are: the product of two uniforms has a long tail and mean one quarter.
    minutes = typical * (0.2 + 3.2 * chance.uniform() * chance.uniform())
    return max(0, round(minutes + chance.spread(1.2)))
