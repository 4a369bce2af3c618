"""Figures of Pellow Sound Ferries beside made-up operators of other invented coasts, the same bytes on every machine.

Planted (`stories.toml`): maintenance takes more of revenue than elsewhere, port dues less. The rest is chance.
"""

from __future__ import annotations

import tomllib
from importlib.resources import files
from typing import Any

import numpy as np

_SEED = 20_250_930
_NAMES = (
    "Ardmouth Line", "Bayhead Ferries", "Brannoch Steam", "Carrow Crossings", "Dunmarrow Packet", "Eastholm Boats",
    "Firth of Orran", "Gull Island Line", "Harrow Strait", "Inverlea Ferries", "Kelder Islands", "Lorn Channel",
    "Marram Coast", "Norholm Seaways", "Oxter Bay", "Penmarrick", "Quill Point", "Rossay Mail", "Saltwick Lines",
    "Thornay Sound", "Ullish Ferries", "Wether Isles",
)  # fmt: skip
#: Each cost as a share of revenue, and how wide operators spread about it.
_COSTS = {
    "fuel": (0.205, 0.16), "crew": (0.235, 0.12), "maintenance": (0.062, 0.18), "port_dues": (0.049, 0.20),
    "overheads": (0.088, 0.20),
}  # fmt: skip
_TRADES = ("island ferries", "island ferries", "island ferries", "freight")


def operators_csv() -> bytes:
    """A row an operator: operator, trade, revenue, passengers, staff and costs of a year."""
    random = np.random.default_rng(_SEED)
    lines = [f"operator,trade,revenue,passengers,staff,{','.join(_COSTS)}"]
    for name in _NAMES:
        trade = _TRADES[int(random.random() * len(_TRADES))]
        lines.append(f"{name},{trade},{_figures(random, 21e6 * (0.4 + 2.2 * random.random() ** 2), {})}")
    return ("\n".join(lines) + "\n").encode()


def own_csv() -> bytes:
    """The own figures, in the same columns."""
    planted = {story["cost"]: story["share"] for story in _stories()["peer_story"]}
    row = _figures(np.random.default_rng(_SEED + 1), 21_300_000.0, planted)
    head = f"operator,trade,revenue,passengers,staff,{','.join(_COSTS)}"
    return f"{head}\nPellow Sound Ferries,island ferries,{row}\n".encode()


def _figures(random: np.random.Generator, revenue: float, planted: dict[str, float]) -> str:
    passengers = revenue / 21 * (0.85 + 0.3 * random.random())
    staff = revenue / 92_000 * (0.8 + 0.4 * random.random())
    costs = []
    for cost, (share, spread) in _COSTS.items():
        drawn = share * (1 + spread * (sum(random.random() for _ in range(12)) - 6))
        costs.append(revenue * planted.get(cost, drawn))
    return ",".join(str(round(value)) for value in (revenue, passengers, staff, *costs))


def _stories() -> dict[str, Any]:
    return tomllib.loads(files("golden_almanac.demo").joinpath("stories.toml").read_text("utf-8"))
