"""Own figures beside peers: an example worked by hand, an independent query, and what cannot be set beside."""

from __future__ import annotations

import json
from pathlib import Path

import duckdb
import pandas as pd
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import golden_almanac as ga
from golden_almanac.stats.share_ranges import wilson

from ..commands import run

PEERS = pd.DataFrame(
    [
        ("Ash", "retail", 100.0, 40.0, 20.0, 10, 5.0), ("Birch", "retail", 200.0, 90.0, 30.0, 25, 12.0),
        ("Cedar", "retail", 80.0, 36.0, 10.0, 9, 9.0), ("Elm", "retail", 120.0, 66.0, 18.0, 14, 3.0),
        ("Fir", "retail", 150.0, 60.0, 24.0, 12, 11.0), ("Gorse", "trade", 140.0, 50.0, 30.0, 20, 10.0),
        ("Hazel", "retail", 2000.0, 900.0, 300.0, 240, 100.0),
    ],
    columns=["company", "kind", "revenue", "material", "wages", "staff", "profit"],
)  # fmt: skip
OWN = pd.DataFrame(
    [("We", "retail", 100.0, 60.0, 12.0, 8, 6.0)],
    columns=["company", "kind", "revenue", "material", "wages", "staff", "profit"],
)


def test_an_example_worked_by_hand() -> None:
    found = ga.peers(OWN, PEERS, size="revenue", category="kind")
    # Half to twice of 100, and retail: Ash, Birch, Cedar, Elm, Fir.
    assert found.to_dict()["chosen"] == ["Ash", "Birch", "Cedar", "Elm", "Fir"]
    lines = found.to_frame().set_index("measure")
    # Material: 40%, 45%, 45%, 55%, 40%; the middle 45%, the better quarter from 40%.
    row = lines.loc["material"]
    assert row[["own", "median", "best_quarter"]].tolist() == pytest.approx([0.6, 0.45, 0.4])
    assert row["gap_amount"] == pytest.approx(20.0)  # 60% less 40%, of 100
    assert row["half_gap_amount"] == pytest.approx(7.5)
    assert (row["quantile"], row["better"]) == (1.0, "down")
    assert row[["low", "high"]].tolist() == pytest.approx(wilson(5, 5))
    # Staff per revenue: 0.1, 0.125, 0.1125, 0.1167, 0.08; told per thousand.
    assert lines.loc["staff", "own"] == pytest.approx(80.0)
    assert lines.loc["staff", "median"] == pytest.approx(112.5)
    assert lines.loc["profit", "better"] == "up"
    # Peers together: 292 of 650 in material, 102 of 650 in wages.
    gap = {part["measure"]: part for part in found.to_dict()["gap"]}
    assert gap["material"]["gap"] == pytest.approx(0.6 - 292 / 650)
    assert gap["wages"]["amount"] == pytest.approx(100 * (0.12 - 102 / 650))
    text = str(found.summary())
    assert text.startswith("Material as a share of revenue is 60%, behind 5 of 5 peers (middle: 45%); closing half")
    assert "best in class" not in text
    assert "retail too, and up to 2 times smaller or larger by revenue" in text


def test_peers_by_name_per_head_and_of_the_latest_year() -> None:
    found = ga.peers(OWN, PEERS, named=["Ash", "Gorse"], per="staff", measures="wages")
    assert found.to_frame()["own"].tolist() == [1.5]
    assert found.to_frame()["median"].tolist() == [pytest.approx((2.0 + 1.5) / 2)]
    both = [frame.assign(year=year) for frame in (PEERS,) for year in (2023, 2024)]
    both[0]["material"] = 1.0
    years = ga.peers(pd.concat([OWN.assign(year=2024), OWN.assign(year=2025)]), pd.concat(both))
    assert years.to_dict()["choice"]["year"] == 2024
    assert years.to_frame().set_index("measure").loc["material", "median"] == pytest.approx(0.45)


figures = st.lists(st.tuples(st.integers(10, 900), st.integers(1, 900), st.integers(1, 90)), min_size=3, max_size=15)


@settings(max_examples=40)
@given(rows=figures, own=st.tuples(st.integers(10, 900), st.integers(1, 900), st.integers(1, 90)))
def test_figures_are_those_of_an_independent_query(rows: list[tuple[int, int, int]], own: tuple[int, int, int]) -> None:
    names = ["revenue", "cost", "staff"]
    peers = pd.DataFrame(rows, columns=names).astype(float)
    peers.insert(0, "firm", [f"Firm {place}" for place in range(len(peers))])
    mine = pd.DataFrame([own], columns=names).astype(float).assign(firm="We")
    found = ga.peers(mine, peers)
    line = found.to_frame().set_index("measure").loc["cost"]
    told = duckdb.sql("SELECT median(cost / revenue), quantile_cont(cost / revenue, 0.25) FROM peers").fetchall()[0]
    assert (line["median"], line["best_quarter"]) == pytest.approx(told, abs=1e-9)
    assert line["gap_amount"] == pytest.approx(max(0.0, own[1] - told[1] * own[0]), abs=1e-6)
    checked = ga.read(peers).sql(found.sql).iloc[0]
    assert checked["cost / revenue, median"] == pytest.approx(told[0], abs=1e-9)
    gap = found.to_dict()["gap"]
    assert sum(part["own"] - part["peers"] for part in gap) == pytest.approx(sum(part["gap"] for part in gap))


def test_a_total_among_the_costs_does_not_count_twice() -> None:
    plain = ga.peers(OWN, PEERS).to_dict()["gap"]
    both = [frame.assign(all_costs=frame["material"] + frame["wages"]) for frame in (OWN, PEERS)]
    found = ga.peers(*both)
    assert [part["measure"] for part in found.to_dict()["gap"]] == [part["measure"] for part in plain]
    assert "all_costs" in set(found.to_frame()["measure"])


def test_what_counts_heads_is_not_told_as_money() -> None:
    own = OWN.assign(staff=30, customers=10)
    peers = PEERS.assign(customers=[100, 220, 90, 130, 160, 150, 2100])
    text = str(ga.peers(own, peers, better={"customers": "up"}).summary("long"))
    assert "half the gap is" in text
    assert "in customers" in text
    assert not any("Customers" in line and "worth" in line for line in text.splitlines())
    # A thing that is larger than revenue, or hardly there beside it, is no share of it.
    assert "share of revenue is 10%" not in text


def test_peers_that_are_alike_are_not_told_apart() -> None:
    import numpy as np

    told = 0
    for seed in range(40):
        random = np.random.default_rng(seed)
        frame = pd.DataFrame({"firm": [f"F{place}" for place in range(21)], "revenue": random.uniform(80, 120, 21)})
        frame["cost"] = frame["revenue"] * random.normal(0.4, 0.05, 21)
        found = ga.peers(frame.iloc[:1], frame.iloc[1:])
        told += sum(line.side != 0 for line in found.result.lines)
    # A place beyond three of four peers comes up by chance too; never in most.
    assert told <= 22


@pytest.mark.parametrize(
    ("own", "asked", "said"),
    [
        (OWN.assign(company="We")[["company", "kind"]], {}, "in common"),
        (OWN.assign(revenue=1e8, material=6e7, wages=1e7, staff=9e6, profit=1e6), {}, "same unit"),
        (OWN, {"size": "sise"}, "sise"),
        (OWN, {"named": "Ashe"}, "Ashe"),
        (OWN, {"named": "Ash"}, "two or more"),
        (OWN.assign(revenue=0.0), {}, "above nought"),
        (OWN, {"better": {"wages": "left"}}, "up or down"),
        (pd.concat([OWN, OWN]), {}, "one row"),
    ],
)  # fmt: skip
def test_what_cannot_be_set_beside_is_said(own: pd.DataFrame, asked: dict[str, object], said: str) -> None:
    with pytest.raises(ga.AlmanacError, match=said):
        ga.peers(own, PEERS, **asked)  # type: ignore[arg-type]


def test_other_units_are_refused_and_no_peers_of_ones_size_are_said(tmp_path: Path) -> None:
    (tmp_path / "own.csv").write_text("company,revenue,cost\nWe,€100,€50\n", "utf-8")
    (tmp_path / "peers.csv").write_text("company,revenue,cost\nA,$90,$30\nB,$80,$44\nC,$70,$40\n", "utf-8")
    with pytest.raises(ga.AlmanacError, match=r"in EUR in .* and in USD"):
        ga.peers(tmp_path / "own.csv", tmp_path / "peers.csv")
    large = PEERS.assign(revenue=PEERS["revenue"] * 50)
    text = " ".join(ga.peers(OWN, large, size="revenue").caveats())
    assert "No peers are of about the own size" in text


def test_the_command_and_the_demo(sailings: Path, tmp_path: Path) -> None:
    own, operators = sailings.parent / "own.csv", sailings.parent / "operators.csv"
    done = run("peers", own, operators, "--size", "revenue", "--category", "trade", "-o", tmp_path / "p.html")
    assert done.returncode == 0, done.stderr
    assert "Maintenance as a share of revenue is 8.8%, behind" in done.stdout.replace("\n", " ")
    found = json.loads(run("peers", own, operators, "--json").stdout)
    assert found["format"] == "golden-almanac/peers/1"
    assert {"chosen", "lines", "gap"} <= set(found)
    assert run("peers", own, "nowhere.csv").returncode == 2
