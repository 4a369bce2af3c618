"""How long something took, as exports write it, against pandas' own reading; times of day stay what they are."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pandas as pd
import pytest
from hypothesis import given
from hypothesis import strategies as st

import golden_almanac as ga
from golden_almanac.tables.io import large_files

_SECONDS = np.random.default_rng(5).integers(20, 400, 300)


def _spelled(form: str, one: int) -> str:
    hours, minutes, seconds = one // 3600, one // 60 % 60, one % 60
    return {
        "three": f"{hours:02d}:{minutes:02d}:{seconds:02d}",
        "short": f"{one // 60}:{seconds:02d}",
        "days": f"0 days {hours:02d}:{minutes:02d}:{seconds:02d}",
        "letters": f"{one // 60}m {seconds}s",
        "either": f"{hours}:{minutes:02d}:{seconds:02d}" if hours else f"{minutes}:{seconds:02d}",
    }[form]


def _column(name: str, texts: list[str]) -> tuple[ga.Table, ga.Column]:
    table = ga.read(pd.DataFrame({"day": pd.date_range("2024-01-01", periods=len(texts)), name: texts}))
    return table, table.column(name)


@pytest.mark.parametrize(
    ("name", "form"),
    [("avg_session_duration", "three"), ("Handle time", "short"), ("anything", "days"), ("anything", "letters")],
)
def test_durations_are_numbers_of_minutes_and_averaged(name: str, form: str) -> None:
    table, column = _column(name, [_spelled(form, int(one)) for one in _SECONDS])
    assert (column.role.value, column.unit, column.adds_up) == ("measure", "min", False)
    assert np.allclose(table.numbers(name), pd.to_timedelta(_SECONDS, "s").total_seconds() / 60)
    assert any("durations in min" in str(one.message) for one in table.problems)


def test_hours_of_work_and_hours_that_no_day_has() -> None:
    table, column = _column("hours_worked", [f"{one // 60}:{one % 60:02d}" for one in _SECONDS])
    assert (column.unit, column.adds_up) == ("h", True)
    assert np.allclose(table.numbers("hours_worked"), _SECONDS / 60)
    table, column = _column("open for", [f"{one}:{one % 60:02d}:00" for one in _SECONDS])
    assert column.unit == "h"
    assert np.allclose(table.numbers("open for"), _SECONDS + _SECONDS % 60 / 60)


@pytest.mark.parametrize("name", ["start_time", "opens", "Departure", "interval", "at"])
def test_times_of_day_are_no_durations(name: str) -> None:
    _, column = _column(name, [f"{6 + one % 15:02d}:{one % 60:02d}:00" for one in _SECONDS])
    assert column.type == "text"
    _, column = _column(name, [f"{6 + one % 15:02d}:{one % 60:02d}" for one in _SECONDS])
    assert column.type == "text"


def test_a_column_of_durations_of_a_frame() -> None:
    frame = pd.DataFrame({"day": pd.date_range("2024-01-01", periods=300), "took": pd.to_timedelta(_SECONDS * 60, "s")})
    frame.loc[3, "took"] = pd.NaT
    table = ga.read(frame)
    assert table.column("took").unit == "h"
    assert table.column("took").missing == 1
    assert np.allclose(np.delete(table.numbers("took"), 3), np.delete(_SECONDS / 60, 3))


@given(st.lists(st.integers(0, 200_000), min_size=3, max_size=30, unique=True))
def test_all_forms_say_the_same(seconds: list[int]) -> None:
    told = []
    for form in ("three", "days", "either"):
        table, column = _column("duration", [_spelled(form, one) for one in (*seconds, 7_200)])
        told.append((column.unit, table.numbers("duration")))
    assert len({unit for unit, _ in told}) == 1
    assert all(np.allclose(one, told[0][1]) for _, one in told)


@pytest.mark.parametrize("form", ["three", "either", "days", "letters"])
def test_a_file_that_is_left_where_it_is(form: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Text beyond the budget is turned by SQL, to the same numbers."""
    seconds = np.random.default_rng(6).integers(20, 9_000, 3_000)
    path = tmp_path / "calls.csv"
    days = pd.date_range("2024-01-01", periods=300).repeat(10)
    pd.DataFrame({"day": days, "handle_time": [_spelled(form, int(one)) for one in seconds]}).to_csv(path, index=False)
    here = ga.read(path)
    monkeypatch.setattr(large_files, "LONG", 0)
    monkeypatch.setattr(large_files, "_LINES", 1e12)
    left = ga.read(path)
    assert left.column("handle_time").unit == here.column("handle_time").unit == "min"
    sums = [one.store.query("SELECT sum(handle_time) AS s FROM source").column("s")[0].as_py() for one in (here, left)]
    assert sums == pytest.approx([seconds.sum() / 60] * 2)
