"""Which labels a change is put down to, what is told of a usual one, and when it may be called even."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest
from scipy import stats

import golden_almanac as ga
from golden_almanac.analysis.change.finer_history import spread_of_moves
from golden_almanac.analysis.change.past_steps import tamed, without_steps
from golden_almanac.analysis.change.row_chance import Events


def quarters(count: int, fallen: str | None, *, level: float = 0.6, seed: int = 4) -> pd.DataFrame:
    """Totals of three branches a quarter; one of them loses two fifths in the last."""
    rng = np.random.default_rng(seed)
    return pd.DataFrame(
        [
            (
                pd.Timestamp("2024-01-15") + pd.DateOffset(months=3 * quarter),
                branch,
                round(size * (level if branch == fallen and quarter == count - 1 else 1) * rng.normal(1, 0.02)),
            )
            for quarter in range(count)
            for branch, size in (("Ardal", 410_000), ("Brekka", 350_000), ("Corrin", 280_000))
        ],
        columns=["date", "branch", "turnover"],
    )


def visits(seed: int) -> pd.DataFrame:
    """The largest of three sources slips by a tenth, the smallest grows fifteenfold."""
    rng = np.random.default_rng(seed)
    return pd.DataFrame(
        [
            (
                pd.Timestamp("2024-01-01") + pd.DateOffset(months=month),
                source,
                round(size * (after if month >= 20 else 1) * rng.normal(1, 0.04)),
            )
            for month in range(26)
            for source, size, after in (("search", 5200, 0.9), ("mail", 900, 1.0), ("social", 60, 15.0))
        ],
        columns=["month", "source", "visits"],
    )


@pytest.mark.parametrize("count", [4, 6])
@pytest.mark.parametrize("fallen", ["Ardal", "Brekka", "Corrin"])
def test_the_branch_that_fell_is_named_in_the_last_of_few_quarters(count: int, fallen: str) -> None:
    scan = ga.scan(quarters(count, fallen))
    assert f"What stands out: {fallen}" in scan.summary().text
    assert "Nothing stands out" not in str(scan.summary())
    change = ga.explain_change(quarters(count, fallen), "turnover")
    assert [one.where.label for one in change.explanation.named] == [fallen]
    assert all(one.check().agrees for one in change.findings)


def test_few_quarters_without_a_story_name_nobody() -> None:
    named = [ga.explain_change(quarters(6, None, seed=seed), "turnover").explanation.named for seed in range(20)]
    assert sum(map(bool, named)) <= 1


@pytest.mark.parametrize("seed", range(4))
def test_the_source_that_went_is_the_story_not_its_mirror(seed: int) -> None:
    frame = visits(seed)
    change = ga.explain_change(frame, "visits", period="2026-02", baseline="year-ago").explanation
    assert change.named[0].where.label == "social" or len(change.named) == 2
    assert "mail" not in [one.where.label for one in change.named]
    told = ga.scan(frame).findings
    assert any(one.where.label == "social" and one.direction == "up" for one in told)


def test_a_usual_change_tells_what_moved_on_its_own(sailings: object) -> None:
    change = ga.explain_change(str(sailings), "revenue", period="2025-Q3", baseline="year-ago")
    text = change.summary().text
    assert "within its usual movement" in text
    assert "Not all moved alike: Agents (channel; −327,000)" in text
    # Outer Bar has rows of the Web: all else is no whole of which the Web could be most.
    assert "By channel: Web contributed most, +621,000." in text
    assert "most of it" not in text
    month = ga.explain_change(str(sailings), "revenue", period="2025-08", baseline="year-ago").summary().text
    assert "all else changed by +22%, most of it Web (+235,000)" in month
    # Tables by what chance alone moved are folded, unless asked for.
    assert [table.heads[0] for table in change.tables()] == ["channel", "region", "route"]
    assert len(change.tables(everything=True)) == 6
    assert any("crew rota" in text for text in change.caveats())
    asked = ga.explain_change(str(sailings), "revenue", period="2025-Q3", baseline="year-ago", by="crew_rota")
    assert [table.heads[0] for table in asked.tables()] == ["crew_rota"]


def test_even_is_said_only_where_a_part_that_stood_still_would_have_been_noticed() -> None:
    rng = np.random.default_rng(1)

    def fallen(rows: int) -> ga.Change:
        day = np.sort(rng.integers(0, 730, rows))
        frame = pd.DataFrame(
            {
                "day": np.datetime64("2023-01-01") + day.astype("timedelta64[D]"),
                "depot": rng.choice(["a", "b", "c", "d"], rows),
                "load": rng.lognormal(3, 0.4, rows) * np.where(day >= 638, 0.7, 1.0),
            }
        )
        return ga.explain_change(frame, "sum(load)", period="2024-Q4", baseline="year-ago")

    many, few = fallen(40_000), fallen(600)
    assert many.explanation.verdict == "even"
    assert many.explanation.noticed is not None
    assert many.explanation.noticed < 0.43  # a depot that stood still would lie 1 / 0.7 − 1 above the others
    assert "even across the board: by depot nothing" in many.summary().text
    assert "even" not in few.summary().text


def test_an_opening_is_not_even() -> None:
    rng = np.random.default_rng(2)
    day = np.sort(rng.integers(0, 730, 20_000))
    shop = np.where((day > 640) & (rng.random(20_000) < 0.2), "new", rng.choice(list("abc"), 20_000))
    frame = pd.DataFrame({"day": np.datetime64("2023-01-01") + day.astype("timedelta64[D]"), "shop": shop, "sold": 1.0})
    change = ga.explain_change(frame, "sum(sold)", period="2024-Q4", baseline="year-ago").explanation
    assert change.verdict != "even"


def test_few_events_are_weighed_as_counts() -> None:
    events = Events(yes=0, of=14, yes_before=2, of_before=15)
    assert events.few
    rows = [(f"2024-0{month}-{day:02d}", event) for month, count, yes in ((1, 15, 2), (2, 14, 0))
            for day, event in ((day, day <= yes) for day in range(1, count + 1))]  # fmt: skip
    frame = pd.DataFrame(rows, columns=["day", "fell"])
    change = ga.explain_change(frame, "avg(fell)", period="2024-02", baseline="2024-01")
    chance = change.explanation.chance
    assert chance is not None
    assert chance.p == pytest.approx(stats.fisher_exact([[0, 14], [2, 12]])[1])  # both cut to a fortnight
    assert "0% (0 of 14 rows)" in change.headline
    assert "no more than chance makes" in change.summary().text
    # A rate lies between nought and one.
    assert chance.low >= -2 / 14
    assert chance.high <= 12 / 14


def test_steps_and_wild_periods_are_taken_out_of_what_is_usual() -> None:
    rng = np.random.default_rng(3)
    calm = rng.normal(0, 0.05, 40)
    stepped = calm + 0.8 * (np.arange(40) >= 22)
    # The latest level is kept, and what varies beside the step.
    assert without_steps(stepped) == pytest.approx(calm + 0.8, abs=0.05)
    assert without_steps(calm) == pytest.approx(calm)
    walk = np.cumsum(rng.normal(0, 0.05, 40))
    assert without_steps(walk) == pytest.approx(walk)
    moves = np.append(rng.normal(0, 1, 30), 50.0)
    assert np.abs(tamed(moves)).max() < 6


def test_the_spread_of_a_year_told_by_months() -> None:
    rng = np.random.default_rng(5)
    errors = []
    for _ in range(300):
        moves = rng.normal(0.02, 0.1, 24)
        found = spread_of_moves(moves[:12], 12)
        assert found is not None
        errors.append((moves[12:].mean() - found.middle) / found.error)
    # Of independent months the error is what it says, or a little too careful.
    assert 0.6 < np.std(errors) < 1.3
    assert spread_of_moves(rng.normal(0, 1, 5), 3) is None
