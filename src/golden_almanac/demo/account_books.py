"""The ledger of Pellow Sound Ferries, a row a posting, 36 months, the same bytes on every machine.

Planted (`stories.toml`): a rent posted twice, dues in the wrong month, a turned sign, overtime that drifts away, fuel
that is dearer at one port. The rest is chance.
"""

from __future__ import annotations

import tomllib
from calendar import monthrange
from dataclasses import dataclass
from datetime import date
from importlib.resources import files
from typing import Any

import numpy as np

_FIRST, _MONTHS = (2022, 10), 36
_SEED = 20_221_001
#: Accounts that are posted to when the month closes.
_AT_THE_END = ("5200", "6800", "6900")
_PORTS = {"Pellow Quay": 0.46, "Skerry Haven": 0.33, "Longstrand": 0.21}
#: The months of a ferry company, January first.
_SEASON = (0.66, 0.70, 0.82, 0.96, 1.06, 1.18, 1.34, 1.42, 1.16, 0.98, 0.80, 0.78)


@dataclass(frozen=True)
class _Account:
    """An account: its amount in a usual month, how far it follows the season (0 to 1), how wide single months spread,
    postings a month and port, the months between postings, its suppliers."""

    name: str
    level: float
    season: float = 0.0
    spread: float = 0.03
    postings: int = 1
    every: int = 1
    suppliers: tuple[str, ...] = ("–",)
    ports: bool = True


_ACCOUNTS = (
    _Account("4000 Fare revenue", 1_480_000, 1.0, 0.02, 8),
    _Account("4100 Freight revenue", 322_000, 0.3, 0.03, 5),
    _Account("5000 Fuel", 356_000, 0.8, 0.03, 4, suppliers=("Brae Fuels", "Skerry Oil")),
    _Account("5100 Port dues", 81_000, 0.5, 0.02, suppliers=("Harbour board",)),
    _Account("5200 Crew wages", 402_000, 0.3, 0.012, 2),
    _Account("5300 Crew overtime", 34_000, 0.6, 0.05, 2),
    _Account("5400 Maintenance", 118_000, 0.0, 0.09, 6, suppliers=("Wray Yard", "Tidewell Engines", "Norrie")),
    _Account("5500 Catering goods", 47_000, 0.9, 0.04, 5, suppliers=("Larder Ltd", "Isles Dairy")),
    _Account("5600 Ticketing fees", 29_500, 1.0, 0.03, suppliers=("Passage Systems",)),
    _Account("6000 Rent", 38_000, 0.0, 0.0, suppliers=("Quay Estates",)),
    _Account("6100 Insurance", 42_500, 0.0, 0.004, suppliers=("Mutual of the Sound",), ports=False),
    _Account("6200 Energy", 16_800, -0.3, 0.05, suppliers=("Isles Power",)),
    _Account("6300 Office", 7_400, 0.0, 0.12, 4, suppliers=("Pen & Tide", "Brightwork")),
    _Account("6400 IT services", 21_300, 0.0, 0.03, 2, suppliers=("Cable & Compass", "Passage Systems")),
    _Account("6500 Marketing", 26_000, 0.4, 0.10, 3, suppliers=("Gull Media", "Foghorn Print")),
    _Account("6600 Audit and legal", 19_000, 0.0, 0.05, every=3, suppliers=("Moss & Lyle",), ports=False),
    _Account("6700 Training", 9_800, 0.0, 0.11, 2, suppliers=("Sound Nautical College",)),
    _Account("6800 Bank charges", 6_100, 0.8, 0.04, ports=False),
    _Account("6900 Depreciation", 127_000, 0.0, 0.0, ports=False),
    _Account("7000 Vessel leases", 88_000, 0.0, 0.0, suppliers=("Northern Hulls",), ports=False),
)  # fmt: skip


def ledger_csv() -> bytes:
    """The postings as CSV: day, entry, account, port, supplier, amount."""
    random = np.random.default_rng(_SEED)
    planted = {story["id"]: story for story in _stories()["ledger_story"]}
    rows: list[tuple[date, str, str, str, float]] = []
    for place in range(_MONTHS):
        year, month = divmod(_FIRST[0] * 12 + _FIRST[1] - 1 + place, 12)
        for account in _ACCOUNTS:
            if place % account.every == 0:
                rows += _postings(account, place, year, month + 1, planted, random)
    lines = ["day,entry,account,port,supplier,amount"]
    lines += [
        f"{day},E{number:05d},{account},{port},{supplier},{amount:.2f}"
        for number, (day, account, port, supplier, amount) in enumerate(sorted(rows), start=1)
    ]
    return ("\n".join(lines) + "\n").encode()


def _postings(
    account: _Account, place: int, year: int, month: int, planted: dict[str, Any], random: np.random.Generator
) -> list[tuple[date, str, str, str, float]]:
    rows = []
    called = f"{year}-{month:02d}"
    level = account.level * account.every * (1 + account.season * (_SEASON[month - 1] - 1))
    level *= 1 + account.spread * _bell(random)
    drift, fuel = planted["overtime-drifts"], planted["fuel-at-skerry-haven"]
    if account.name == drift["account"] and place > drift["from"]:
        level *= 1 + drift["monthly"] * (place - drift["from"])
    for port, part in (_PORTS if account.ports else {"Head office": 1.0}).items():
        size = level * part
        if account.name == fuel["account"] and port == fuel["port"] and called >= fuel["since"]:
            size *= 1 + fuel["rise"]
        parts = [1 + 0.5 * random.random() for _ in range(account.postings)]
        for share in parts:
            on = date(year, month, 1 + int(random.random() * 28)) if account.postings > 1 else date(year, month, 3)
            if account.name.startswith(_AT_THE_END):
                on = date(year, month, monthrange(year, month)[1])
            supplier = account.suppliers[int(random.random() * len(account.suppliers))]
            amount = round(size * share / sum(parts), 2)
            rows += _planted(on, account.name, port, supplier, amount, called, planted)
    return rows


def _planted(
    on: date, account: str, port: str, supplier: str, amount: float, called: str, planted: dict[str, Any]
) -> list[tuple[date, str, str, str, float]]:
    """A posting as the books have it: once, twice, in another month, with another sign."""
    twice, moved, turned = planted["rent-twice"], planted["dues-in-july"], planted["insurance-turned"]
    if account == twice["account"] and port == twice["port"] and called == twice["month"]:
        return [(on, account, port, supplier, amount)] * 2
    if account == moved["account"] and called == moved["month"]:
        return [(on.replace(month=on.month + 1), account, port, supplier, amount)]
    if account == turned["account"] and called == turned["month"]:
        return [(on, account, port, supplier, -amount)]
    return [(on, account, port, supplier, amount)]


def _bell(random: np.random.Generator) -> float:
    """Chance of mean nought and variance one, near enough to a normal one, from sums alone."""
    return float(sum(random.random() for _ in range(12)) - 6)


def _stories() -> dict[str, Any]:
    return tomllib.loads(files("golden_almanac.demo").joinpath("stories.toml").read_text("utf-8"))
