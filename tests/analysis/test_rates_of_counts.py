"""Orders and visitors by variant: what of each hundred visitors orders is told, though no column gives it."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga


def _shop(seed: int, better: float = 0.0, days: int = 42) -> pd.DataFrame:
    rng = np.random.default_rng(seed)
    variant = np.tile(["control", "new page"], days)
    visitors = rng.poisson(4_200, 2 * days)
    orders = rng.binomial(visitors, 0.051 + better * (variant == "new page"))
    day = np.repeat(pd.date_range("2025-10-01", periods=days), 2)
    return pd.DataFrame({"day": day, "variant": variant, "visitors": visitors, "orders": orders})


def test_the_better_variant_is_told_by_its_rate() -> None:
    frame = _shop(1, 0.007)
    gap = next(one for one in ga.scan(ga.read(frame)).findings if one.kind == "difference")
    sums = frame.groupby("variant")[["orders", "visitors"]].sum()
    rate = sums["orders"] / sums["visitors"]
    assert gap.figures["value"] == pytest.approx(rate[gap.where.conditions[-1][1]])
    assert gap.headline in (
        "Orders per visitor of new page are 5.8%, against 5.1% for control.",
        "Orders per visitor of control are 5.1%, against 5.8% for new page.",
    )
    assert gap.check().agrees


@pytest.mark.parametrize("seed", range(6))
def test_variants_that_are_alike_are_not_told(seed: int) -> None:
    found = ga.scan(ga.read(_shop(seed)))
    told = [one for one in (*found.findings, *found.folded) if one.kind != "ranking"]
    assert not told, [one.headline for one in told]


def test_no_rate_is_made_that_a_column_gives_or_that_is_none() -> None:
    frame = _shop(2)
    plan = [one.label for one in ga.scan(ga.read(frame)).result.survey.measures]
    assert plan == ["visitors", "orders", "orders per visitor"]
    given = frame.assign(conversion_rate=frame["orders"] / frame["visitors"])
    assert sum("per visitor" in one.label for one in ga.scan(ga.read(given)).result.survey.measures) == 0
    more = frame.assign(orders=frame["visitors"] + frame["orders"])
    assert sum("per visitor" in one.label for one in ga.scan(ga.read(more)).result.survey.measures) == 0


def test_with_a_third_variant_nobody_is_named_as_the_other() -> None:
    """The others are all others, be one of them too small to be told by itself."""
    frame = _shop(3, 0.009)
    few = pd.DataFrame({"day": frame["day"][:4], "variant": "old page", "visitors": 40, "orders": 2})
    found = ga.scan(ga.read(pd.concat([frame, few], ignore_index=True)))
    gap = next(one for one in found.findings if one.kind == "difference")
    assert gap.headline.endswith("for the other variants.")
