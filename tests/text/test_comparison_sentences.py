"""What comparisons, relations and regressions mean, in words with their figures."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga

RNG = np.random.default_rng(13)


def _two(gap: float, n: int = 80) -> pd.DataFrame:
    values = np.r_[RNG.normal(10, 2, n), RNG.normal(10 + gap, 2, n)].round(2)
    return pd.DataFrame({"delay_min": values, "ship": ["Tern"] * n + ["Wren"] * n})


def test_a_difference_is_told_with_its_range() -> None:
    text = ga.compare(_two(4.0), "delay_min", "ship").headline
    assert text.startswith("Delay averages ")
    assert "in Tern and" in text
    assert "less (95% range −" in text
    assert text.endswith("which chance does not make.")


def test_no_difference_says_what_may_still_be_there() -> None:
    text = ga.compare(_two(0.0), "delay_min", "ship").headline
    assert "no more apart than chance makes: the true difference may lie between" in text


def test_many_groups_name_the_ends_and_the_widest_pairs() -> None:
    frame = pd.concat([_two(3.0), _two(0.0).assign(ship="Swift")])
    found = ga.compare(frame, "delay_min", "ship")
    assert "differs between the ships, more than chance makes: from" in found.headline
    assert "pairs differ for sure" in found.summary().text
    alike = pd.DataFrame({"v": RNG.normal(0, 1, 120), "g": list("abc") * 40})
    assert "by more than chance makes" in ga.compare(alike, "v", "g").headline


def test_labels_and_shares() -> None:
    n = 300
    frame = pd.DataFrame(
        {"late": RNG.choice(["yes", "no"], n), "fare": RNG.choice(["x", "y", "z"], n), "g": ["a", "b"] * 150}
    )
    frame.loc[frame["g"] == "a", "late"] = RNG.choice(["yes", "no"], 150, p=[0.9, 0.1])
    shares = ga.compare(frame, "late", "g")
    assert "%" in shares.headline
    assert "points more" in shares.headline or "points less" in shares.headline
    assert "as far as chance lets one tell" in ga.compare(frame, "fare", "g").headline
    assert shares.crosstab().to_numpy().sum() == n


def test_regressions_say_what_a_label_and_a_number_go_with() -> None:
    frame = _two(5.0)
    frame["load"] = RNG.uniform(0, 10, len(frame)).round(2)
    frame["delay_min"] += 0.8 * frame["load"]
    found = ga.regress(frame, "delay_min", ["ship", "load"])
    assert found.headline.startswith("The fit accounts for ")
    text = found.summary().text
    assert "higher where ship is Wren than where it is Tern" in text
    assert "One more of load goes with +0." in text
    nothing = pd.DataFrame({"y": RNG.normal(0, 1, 50), "x": RNG.normal(0, 1, 50)})
    if ga.regress(nothing, "y", "x").result.p > 0.05:
        assert "do not tell y beyond chance" in ga.regress(nothing, "y", "x").headline


@pytest.mark.parametrize(
    ("curve", "words"),
    [
        (lambda x: 0.0 * x, "do not go together beyond chance"),
        (lambda x: x, "rises with"),
        (lambda x: -x, "falls with"),
        (lambda x: np.abs(x - 5), "then the other way"),
        (lambda x: 4.0 * (x > 6), "in a step above"),
    ],
)
def test_relations_tell_their_shape(curve, words: str) -> None:
    x = np.linspace(0, 10, 300).round(3)
    frame = pd.DataFrame({"x": x, "y": (curve(x) + RNG.normal(0, 0.4, 300)).round(3)})
    assert words in ga.relate(frame, "x", "y").headline
