"""Common-size figures beside peers: place, gap to the middle and to the better quarter, what the gap consists of.

Amounts are told as a share of revenue, counts per so much revenue, or both per unit of whatever is named. The middle is
the median; the better quarter begins at the quartile (linear between values, Hyndman & Fan 1996, type 7); the place is
the share of peers below, with the range that so few of them leave (Wilson 1927).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import Literal

import numpy as np

from ...sql.expressions import quote_name, quote_value
from ...stats.share_ranges import wilson
from ...support.better_directions import better_way
from ...support.errors import RequestError, rather
from ...tables import Table
from ...tables.meaning.name_words import COUNTS, MONEY, tells, words
from .peer_choice import Chosen, Floats

Way = Literal["up", "down"]
#: What revenue, and heads, are called.
_REVENUE = ("revenue", "turnover", "sales", "umsatz", "erlös", "ventas", "ingresos", "chiffre")
_HEADS = frozenset(
    "staff head heads headcount employee employees fte ftes people mitarbeiter personal empleados effectif".split()
)
_UNITS = (1.0, 1e3, 1e6, 1e9)
#: The share of revenue below which a figure without a telling name is hardly an amount.
_HARDLY = 0.0005
#: Peers from which a place can be said to lie apart from the middle.
_FEWEST = 4
#: Other costs among which those that a total holds are sought in every combination.
_MOST_HELD = 10


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class PeerLine:
    """One figure beside peers: `own`, `median`, `best` (where the better quarter begins; None where nobody says which
    way is better), the `values` of the peers, in the order of their names.

    `measure` over `per` times `times` (share: as a share of it; per None: as it stands). `quantile` is the share of
    peers below, `low` and `high` its 95% range; `gap` own less median; `gap_amount` the own amount that the better
    quarter would change, in the measure's own unit (nought where one is in it). `side`: 1 ahead of the middle for
    sure, -1 behind, 0 neither.
    """

    measure: str
    per: str | None
    times: float
    share: bool
    way: Way | None
    assumed: bool
    own: float
    values: Floats
    median: float
    best: float | None
    quantile: float
    low: float
    high: float
    gap: float
    gap_amount: float | None
    half_worth: float | None
    n: int

    @property
    def side(self) -> int:
        """Ahead of the middle for sure (1), behind it (-1), or neither (0)."""
        if self.way is None or self.n < _FEWEST:
            return 0
        above = int(self.low > 0.5) - int(self.high < 0.5)
        return above if self.way == "up" else -above


@dataclass(frozen=True, slots=True, kw_only=True)
class GapPart:
    """What a line is of the gap between the own costs and those of the peers together: shares of revenue, which add up
    over the lines, and the `amount` that it comes to."""

    measure: str
    own: float
    peers: float
    gap: float
    amount: float


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Peers:
    """Own figures beside chosen peers; `parts` say what the gap in costs consists of, the largest first (empty where
    amounts are not shares of one revenue)."""

    own: Table
    peers: Table
    chosen: Chosen
    base: str | None
    lines: tuple[PeerLine, ...]
    parts: tuple[GapPart, ...]
    sql: str


def peers_of(
    own: Table, peers: Table, chosen: Chosen, measures: Sequence[str] | None, per: Sequence[str] | None,
    better: Mapping[str, str],
) -> Peers:  # fmt: skip
    """The lines. Raises RequestError for a figure that both tables do not have."""
    known = list(chosen.figures)
    for name in (*(measures or ()), *(per or ()), *better):
        if name not in known:
            raise RequestError("The figure", name, f"one that both tables have; {rather(name, known, 'figures')}")
    base = per[0] if per else _base(chosen)
    if base is not None and not chosen.own[base] > 0:
        raise RequestError("The base", f"{base} of {chosen.own[base]:g}", "above nought in the own figures")
    wanted = list(measures or known)
    made: list[PeerLine] = []
    for divisor in per or ((base,) if base else ()):
        made += [_line(chosen, peers, name, divisor, better) for name in wanted if name != divisor]
    if base is None or (measures and base in measures):
        made += [_line(chosen, peers, name, None, better) for name in wanted if base is None or name == base]
    lines = [line for line in made if np.isfinite(line.own) and line.n >= 2]
    if not lines:
        raise RequestError("The figures", ", ".join(wanted) or "none", "known of oneself and of two peers at least")
    return Peers(
        own=own,
        peers=peers,
        chosen=chosen,
        base=base,
        lines=tuple(sorted(lines, key=_weight)),
        parts=_parts(chosen, lines, base),
        sql=_check(peers, chosen, lines),
    )


def _base(chosen: Chosen) -> str | None:
    """Revenue, by its name, or the size that peers were chosen by if that is an amount."""
    found = [name for name in chosen.figures if any(word in name.casefold() for word in _REVENUE)]
    return found[0] if found else None


def _is_part(peers: Table, name: str, shares: Floats) -> bool:
    """Whether a figure is an amount that revenue pays for or leaves, by its name; or, where that says nothing, by its
    size in all of `shares` of revenue: what is larger than it, or hardly there, is no part of it."""
    told = words(name)
    if _HEADS & set(told) or tells(told, COUNTS) or peers.column(name).nature == "count":
        return False
    seen = shares[np.isfinite(shares)]
    return tells(told, MONEY) is not None or bool(seen.size and seen.max() <= 1 and np.median(seen) >= _HARDLY)


def _line(chosen: Chosen, peers: Table, name: str, per: str | None, better: Mapping[str, str]) -> PeerLine:
    below = None if per is None else chosen.figures[per]
    own_below = 1.0 if per is None else chosen.own[per]
    with np.errstate(divide="ignore", invalid="ignore"):
        values = chosen.figures[name] / (1.0 if below is None else np.where(below > 0, below, np.nan))
    own = chosen.own[name] / own_below
    revenue = per is not None and any(word in per.casefold() for word in _REVENUE)
    share = revenue and _is_part(peers, name, np.append(values, own))
    times = 1.0
    seen = values[np.isfinite(values)]
    if per is not None and not share and seen.size:
        # As so many per thousand, million or billion that the middle can be read.
        middle = float(np.median(np.abs(seen)))
        times = next((unit for unit in _UNITS if middle * unit >= 1), _UNITS[-1]) if middle else 1.0
    stated = better.get(name)
    way = stated or better_way([name])
    # Of a share of revenue that no word speaks for, less is better: it is a cost.
    assumed = way is None and share
    way = "down" if assumed else way
    n = int(seen.size)
    median = float(np.median(seen)) if n else np.nan
    best = None if way is None or not n else float(np.quantile(seen, 0.75 if way == "up" else 0.25))
    amount = None if best is None else _to_go(own, best, way) * own_below
    half = None if way is None or not n else _to_go(own, median, way) * own_below / 2
    below_own = float((seen < own).sum())
    low, high = wilson(below_own, n) if n else (np.nan, np.nan)
    return PeerLine(
        measure=name, per=per, times=times, share=share, way=way if way in ("up", "down") else None,  # type: ignore[arg-type]
        assumed=assumed, own=own * times, values=values * times, median=median * times,
        best=None if best is None else best * times, quantile=below_own / n if n else np.nan, low=low, high=high,
        gap=(own - median) * times, gap_amount=amount, half_worth=half, n=n,
    )  # fmt: skip


def _to_go(own: float, goal: float, way: str | None) -> float:
    """How far the goal lies on the better side; nought where one is there."""
    return max(0.0, own - goal) if way == "down" else max(0.0, goal - own)


def _weight(line: PeerLine) -> tuple[bool, float, str]:
    """Behind first, by the money to the middle; then the rest."""
    return line.side >= 0, -(line.half_worth or 0.0), line.measure


def _parts(chosen: Chosen, lines: Sequence[PeerLine], base: str | None) -> tuple[GapPart, ...]:
    """The gap in costs, line by line, against the peers together: the sum of each over the sum of their revenue."""
    costs = [line for line in lines if line.share and line.way == "down" and line.per == base]
    costs = [line for line in costs if not _holds_others(chosen, line.measure, [one.measure for one in costs])]
    if base is None or len(costs) < 2:
        return ()
    whole = np.isfinite(chosen.figures[base]) & (chosen.figures[base] > 0)
    for line in costs:
        whole &= np.isfinite(chosen.figures[line.measure])
    if whole.sum() < 2:
        return ()
    revenue = float(chosen.figures[base][whole].sum())
    made = []
    for line in costs:
        together = float(chosen.figures[line.measure][whole].sum()) / revenue
        own = chosen.own[line.measure] / chosen.own[base]
        gap = own - together
        made.append(GapPart(measure=line.measure, own=own, peers=together, gap=gap, amount=gap * chosen.own[base]))
    return tuple(sorted(made, key=lambda part: (-abs(part.gap), part.measure)))


def _holds_others(chosen: Chosen, measure: str, costs: Sequence[str]) -> bool:
    """Whether a cost is the sum of others among them, in the own figures and in those of all peers: what it holds would
    count twice."""
    rest = [name for name in costs if name != measure]
    # Of many costs only the sum of all the others is tried.
    sizes = range(2, len(rest) + 1) if len(rest) <= _MOST_HELD else [len(rest)]
    for size in sizes:
        for parts in combinations(rest, size):
            own = sum(chosen.own[name] for name in parts)
            peers = np.sum([chosen.figures[name] for name in parts], axis=0)
            apart = np.abs(np.append(peers - chosen.figures[measure], own - chosen.own[measure]))
            # Rounded figures miss their sum by a half each.
            if np.nanmax(apart, initial=0.0) <= max(0.5 * (size + 1), 1e-6 * abs(chosen.own[measure])):
                return True
    return False


def _check(peers: Table, chosen: Chosen, lines: Sequence[PeerLine]) -> str:
    """The median and the quarters of each line over the chosen peers."""
    columns = []
    for line in lines:
        below = "" if line.per is None else f" / nullif({quote_name(line.per)}, 0)"
        times = "" if line.times == 1 else f" * {line.times:.0f}"
        value = f"CAST({quote_name(line.measure)} AS DOUBLE){below}{times}"
        called = line.measure if line.per is None else f"{line.measure} / {line.per}"
        columns += [
            f"quantile_cont({value}, {level}) AS {quote_name(f'{called}, {name}')}"
            for level, name in ((0.25, "quarter"), (0.5, "median"), (0.75, "three quarters"))
        ]
    names = ", ".join(quote_value(name) for name in chosen.names)
    year = "" if chosen.year is None else f" AND {_year_is(peers, *chosen.year)}"
    return f"SELECT {', '.join(columns)} FROM source WHERE {quote_name(chosen.name_column)} IN ({names}){year}"


def _year_is(peers: Table, column: str, year: float) -> str:
    name = quote_name(column)
    return f"{name} = {year:.0f}" if peers.column(column).type == "number" else f"year({name}) = {year:.0f}"
