"""Every planted family of the truth benchmark once, with the words and charts that tell it."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest
from bench.truth.drivers import FAMILIES

import golden_almanac as ga


@pytest.mark.parametrize("family", sorted(FAMILIES))
def test_a_family_is_told(family: str) -> None:
    made = FAMILIES[family](np.random.default_rng([77, sorted(FAMILIES).index(family)]))
    found = ga.find_drivers(made.frame, "y")
    told = [one.factor.name for one in found.drivers]
    assert tuple(told[: len(made.wanted)]) == made.wanted
    assert not set(told) & set(made.noise)
    assert set(made.left_out) <= {one.factor for one in found.found.left_out}
    if made.cut is not None:
        column, place, span = made.cut
        shape = next(one.shape for one in found.drivers if one.factor.name == column)
        assert shape is not None
        at = shape.cut.at if shape.cut is not None else shape.bend
        assert at == pytest.approx(place, abs=0.1 * span)
    summary = found.summary()
    assert summary.words <= 125
    if not made.wanted:
        assert summary.headline.startswith("Nothing here goes clearly with y")
        return
    for name in told:
        chart = found.chart(name)
        assert chart.issues() == [], (family, name)
        assert not chart.to_frame().empty
    assert found.report().html().startswith(b"<!doctype html>")


@pytest.mark.parametrize(
    ("curve", "words"),
    [
        (lambda x: 2.0 * (x > 60), "above"),
        (lambda x: 0.05 * np.minimum(x, 40), "then levels off"),
        (lambda x: 0.08 * np.maximum(x - 55, 0), "hardly moves with load"),
        (lambda x: 0.05 * np.abs(x - 50), "then rises"),
        (lambda x: 0.03 * x, "for each"),
    ],
)
def test_the_sentence_tells_the_shape(curve, words: str) -> None:
    rng = np.random.default_rng(21)
    load = np.round(rng.uniform(0, 100, 2000), 1)
    frame = pd.DataFrame({"load": load, "delay": np.round(10 + curve(load) + rng.normal(0, 0.6, 2000), 2)})
    found = ga.find_drivers(frame, "delay", ["load"])
    assert words in found.headline
    assert "all else equal" in found.headline


def test_a_rate_and_a_sample_are_said() -> None:
    rng = np.random.default_rng(5)
    frame = pd.DataFrame(
        {
            "money": rng.gamma(3, 10, 900).round(2),
            "people": rng.poisson(9, 900) + 1,
            "kind": rng.choice(["a", "b"], 900),
        }
    )
    frame.loc[frame["kind"] == "b", "money"] *= 1.6
    found = ga.find_drivers(frame, "sum(money) / sum(people)", ["kind"])
    assert "money per person" in found.headline.lower()
    assert found.to_dict()["request"]["kind"] == "rate"
    gone = ga.find_drivers(frame.assign(money=frame["money"].where(frame.index % 9 > 0)), "money", ["kind"])
    assert any("have no value of the outcome" in text for text in gone.caveats())
    with pytest.raises(ga.RequestError, match="one that was found"):
        found.chart("people")
