"""Parts and whole: added up, moved towards each other, or what is better at the origins, over many tables.

Tables are public ones with parts (unemployed by industry, volumes by ticker, wages by place, jobs by region) and made
ones of known kinds; each last year is held out. Errors are those of the parts not made to agree, as one.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

import numpy as np
import numpy.typing as npt

from golden_almanac.analysis.forecast.reconciliation import added_up, agreed, moved_together
from golden_almanac.stats.forecasting.procedure import procedure

from .public_series import PublicSeries

Floats = npt.NDArray[np.float64]
_HORIZON = 12


def public_tables(series: list[PublicSeries]) -> Iterator[tuple[str, str, Floats]]:
    """Public series of one set and one length, as the parts of a table."""
    sets: dict[tuple[str, str, int], list[Floats]] = defaultdict(list)
    for one in series:
        sets[one.name.rpartition("/")[0], one.grain, one.values.size].append(one.values)
    for (name, grain, _), parts in sorted(sets.items()):
        if len(parts) >= 3 and all((part >= 0).all() for part in parts) and parts[0].size >= 40 and grain != "year":
            yield name, grain, np.array(parts)


def made_tables(turns: int = 12) -> Iterator[tuple[str, str, Floats]]:
    """Five years of months of eight labels, of five kinds."""
    random = np.random.default_rng(29)
    along = np.arange(60.0)
    year = np.sin(along * np.pi / 6)
    for turn in range(turns):
        size = np.sort(random.pareto(1.2, 8) + 0.2)[::-1, None] * 100
        noise = random.normal(0, 1, (8, 60)) * size
        yield f"season shared {turn}", "month", size * (1 + 0.25 * year) + 0.1 * noise
        slopes = random.normal(0, 0.006, (8, 1))
        yield f"trends that differ {turn}", "month", size * np.exp(slopes * along) + 0.08 * noise
        phases = random.uniform(0, 12, (8, 1))
        yield (
            f"seasons that differ {turn}",
            "month",
            size * (1 + 0.4 * np.sin((along + phases) * np.pi / 6)) + 0.1 * noise,
        )
        walk = np.cumsum(random.normal(0, 0.05, (8, 60)), axis=1)
        yield f"walks {turn}", "month", size * np.exp(walk)
        common = np.cumsum(random.normal(0, 0.03, 60))
        few = random.poisson(np.minimum(size / 20, 6) * np.exp(common) * (1 + 0.2 * year))
        yield f"counts {turn}", "month", few.astype(float)


def parts_measured(series: list[PublicSeries]) -> None:
    """Errors of whole and parts by way, to those not made to agree, printed."""
    told: dict[tuple[str, str], list[tuple[float, float]]] = defaultdict(list)
    for where, tables in (("public", public_tables(series)), ("made", made_tables())):
        for _, grain, parts in tables:
            whole = np.vstack([parts.sum(axis=0), parts])
            history, came = whole[:, :-_HORIZON], whole[:, -_HORIZON:]
            found = procedure(history, grain, _HORIZON)
            apart = _errors(found.path, came)
            ways = {
                "added up": added_up(found.path),
                "moved": moved_together(history, found.path, found.origins),
                "the better at the origins": agreed(history, found.path, found.origins)[0],
            }
            for name, path in ways.items():
                errors = _errors(path, came)
                told[where, name].append((errors[0] / apart[0], errors[1] / apart[1]))
    for (where, name), ratios in told.items():
        whole_ratio, part_ratio = np.exp(np.log(np.maximum(ratios, 1e-3)).mean(axis=0))
        print(f"parts, {where:6} {len(ratios):3} tables  {name:26} whole {whole_ratio:.3f}  parts {part_ratio:.3f}")


def _errors(path: Floats, came: Floats) -> tuple[float, float]:
    missed = np.abs(path[:, -1] - came).mean(axis=1)
    return float(missed[0]), float(missed[1:].sum())
