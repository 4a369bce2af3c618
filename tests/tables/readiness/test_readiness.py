"""Each check of readiness on a table made for it, and on one where it must be silent."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pandas as pd
import pytest
from hypothesis import given
from hypothesis import strategies as st

import golden_almanac as ga
from golden_almanac.tables.readiness import label_variants, row_identity
from tests.analysis.detectors.tables import plain


def problems(frame: pd.DataFrame) -> dict[str, object]:
    return {problem.check: problem for problem in ga.read(frame).problems}


def test_a_clean_table_has_no_problem() -> None:
    frame = plain(300)
    frame["id"] = [f"T{i}" for i in range(300)]
    assert problems(frame) == {}
    assert ga.check(frame).headline.endswith("are fit to report from as they stand.")


amounts = st.lists(st.tuples(st.integers(100, 10**6), st.integers(100, 10**6)), min_size=3, max_size=12)


@given(st.lists(amounts, min_size=1, max_size=4), st.booleans())
def test_totals_are_found_by_arithmetic(groups: list[list[tuple[int, int]]], said: bool) -> None:
    rows, kept = [], 0
    for place, group in enumerate(groups):
        rows += [(f"G{place}", f"item {i}", a, b) for i, (a, b) in enumerate(group)]
        kept += len(group)
        if len(groups) > 1:
            label = f"Subtotal G{place}" if said else None
            rows.append((label, None, sum(a for a, _ in group), sum(b for _, b in group)))
    rows.append(
        ("Total" if said else None, None, sum(a for g in groups for a, _ in g), sum(b for g in groups for _, b in g))
    )
    table = ga.read(pd.DataFrame(rows, columns=["group", "item", "a", "b"]))
    assert table.rows == kept
    assert len(table.aside) == len(rows) - kept
    assert table.numbers("a").sum() == sum(a for g in groups for a, _ in g)


@given(st.lists(st.tuples(st.sampled_from("abc"), st.integers(1, 30)), min_size=5, max_size=60))
def test_small_numbers_that_happen_to_add_up_are_no_totals(rows: list[tuple[str, int]]) -> None:
    assert ga.read(pd.DataFrame(rows, columns=["shop", "n"])).rows == len(rows)


def test_a_small_number_without_a_label_is_no_total() -> None:
    frame = pd.DataFrame({"shop": ["a", "b", "c", None], "n": [0, 1, 2, 3]})
    assert ga.read(frame).rows == 4
    frame["n"] = [1210, 1441, 2012, 4663]
    assert ga.read(frame).rows == 3


def test_a_word_alone_makes_no_total() -> None:
    frame = pd.DataFrame({"brand": ["Total Oil", "Acme", "Sum Co", "Best"] * 5, "sales": range(100, 120)})
    assert ga.read(frame).rows == 20


def test_repeats_are_told_and_kept() -> None:
    frame = plain(300)
    frame = pd.concat([frame, frame.iloc[[7]]], ignore_index=True)
    problem = problems(frame)["repeated rows"]
    assert problem.rows == 1  # type: ignore[attr-defined]
    assert ga.read(frame).rows == 301


@pytest.mark.parametrize(
    ("counts", "pairs"),
    [
        ({"Harbour": 50, "harbour": 2}, [("harbour", "Harbour")]),
        ({"São Paulo": 9, "Sao Paulo": 1}, [("Sao Paulo", "São Paulo")]),
        ({"Castle Reach": 90, "Castel Reach": 1}, [("Castel Reach", "Castle Reach")]),
        ({"Route 11": 50, "Route 12": 2}, []),
        ({"North": 50, "South": 50}, []),
        ({"Tern": 40, "Fern": 1}, []),
        ({"Desk 01": 9, "Desk 02": 9}, []),
        ({"Ann-Marie": 5, "Ann Marie": 30}, [("Ann-Marie", "Ann Marie")]),
    ],
)
def test_labels_alike(counts: dict[str, int], pairs: list[tuple[str, str]]) -> None:
    assert label_variants.alike(counts) == pairs


def test_columns_without_use() -> None:
    frame = plain(100)
    frame["nothing"], frame["same"] = None, "x"
    frame["rare"] = [5.0] + [np.nan] * 99
    found = {(p.check, p.column) for p in ga.read(frame).problems}
    assert {("empty column", "nothing"), ("constant column", "same"), ("almost empty column", "rare")} <= found


def test_grain_is_the_smallest_unique_set() -> None:
    days = pd.date_range("2025-01-01", periods=20)
    frame = pd.DataFrame(
        [(d, s, c, 1.5) for d in days for s in "ab" for c in "xyz"], columns=["day", "shop", "class", "v"]
    )
    assert row_identity.smallest(ga.read(frame)) == ("day", "shop", "class")
    assert row_identity.smallest(ga.read(frame[frame["class"] == "x"].drop(columns="class"))) == ("day", "shop")


@given(st.integers(4, 12), st.integers(2, 6), st.sampled_from(["%Y-%m", "%b %Y", "%Y"]))
def test_periods_across_columns_become_rows(periods: int, rows: int, form: str) -> None:
    starts = pd.date_range("2021-01-01", periods=periods, freq="YS" if form == "%Y" else "MS")
    frame = pd.DataFrame({"goods": [f"g{i}" for i in range(rows)]})
    for place, start in enumerate(starts):
        frame[start.strftime(form)] = [float(10 * row + place + 0.5) for row in range(rows)]
    table = ga.read(frame)
    assert table.names == ["goods", "period", "value"]
    assert table.rows == rows * periods
    back = table.to_frame().pivot(index="goods", columns="period", values="value")
    assert back.to_numpy().tolist() == frame.drop(columns="goods").to_numpy().tolist()


def test_readiness_as_json(tmp_path: object) -> None:
    data = ga.check(plain(50)).to_dict()
    assert data["format"] == "golden-almanac/readiness/1"
    keys = {"name", "original", "role", "type", "unit", "missing", "distinct", "min", "max", "sum", "examples"}
    keys |= {"nature", "because", "beside"}
    assert all(set(column) == keys for column in data["columns"])
    for problem in data["readiness"]:
        assert set(problem) == {"check", "severity", "column", "rows", "examples", "message", "repair", "question"}


def test_a_total_of_the_periods_is_left_out_and_other_numbers_are_not_summed(tmp_path: Path) -> None:
    path = tmp_path / "plan.csv"
    path.write_text(
        "Name,Target,Jan 25,Feb 25,Mar 25,Apr 25,H1,Total\nA,9,1,2,3,4,6,10\nB,8,5,6,7,8,18,26\nC,7,1,1,1,1,3,4\n"
    )
    table = ga.read(path)
    assert table.names == ["Name", "Target", "period", "value"]
    assert table.numbers("value").sum() == 40
    assert table.column("Target").adds_up is False
    (told,) = [one for one in table.problems if one.check == "periods across columns"]
    assert "'H1' and 'Total' add periods up" in told.message
    assert ga.read(path, repairs=table.repair_log()).arrow.equals(table.arrow)


@pytest.mark.parametrize(
    ("text", "names"),
    [
        ("2025-01-01,5,a\n2025-01-02,6,b\n2025-01-03,7,c\n", ["column 1", "column 2", "column 3"]),
        ("Route,2023,2024,2025\nNorth,1,2,3\nSouth,4,5,6\n", ["Route", "2023", "2024", "2025"]),
        ("Route,1,2,3\nNorth,10,20,30\nSouth,40,50,60\n", ["Route", "1", "2", "3"]),
        ("name,note\nAnn,x\nBob,y\n", ["name", "note"]),
    ],
)
def test_a_first_line_of_data_is_a_row(tmp_path: Path, text: str, names: list[str]) -> None:
    (tmp_path / "a.csv").write_text(text)
    table = ga.read(tmp_path / "a.csv")
    assert table.names == names
    headless = names[0] == "column 1"
    assert table.rows == text.count("\n") - (0 if headless else 1)
    assert table.row_numbers()[0] == (1 if headless else 2)


def test_frames_of_any_make_are_read() -> None:
    doubled = ga.read(pd.DataFrame([[1, 2], [3, 4]], columns=["a", "a"]))
    assert doubled.arrow.to_pydict() == {"a": [1, 3], "a 2": [2, 4]}
    mixed = ga.read(pd.DataFrame({"a": [1, "x", None], "big": [2**70, 1, 2]}))
    assert mixed.arrow.to_pydict() == {"a": ["1", "x", None], "big": [str(2**70), "1", "2"]}
    grouped = pd.DataFrame({"k": ["p", "p", "q"], "b": [3, 4, 5]}).groupby("k").agg(["sum", "mean"])
    assert ga.read(grouped).names == ["k", "b sum", "b mean"]


def test_infinite_and_too_large_numbers(tmp_path: Path) -> None:
    frame = plain(300)
    frame["odd"] = np.where(np.arange(300) == 5, np.inf, np.arange(300.0))
    frame["vast"] = 1e307 * (1 + np.arange(300) % 3)
    found = ga.check(frame)
    told = {one.column: one for one in found.problems if one.check in ("infinite values", "numbers too large")}
    assert told["odd"].examples == ((6, "infinite"),)
    assert found.table.arrow.column("odd")[5].as_py() is None
    assert told["vast"].severity == "question"
    scan = ga.scan(found.table)
    assert "sum(vast)" not in [measure.name for measure in scan.result.survey.measures]


def test_rows_still_to_be_filled_in_are_no_collapse(tmp_path: Path) -> None:
    months = pd.date_range("2022-01-01", "2024-12-01", freq="MS")
    frame = pd.DataFrame({"month": months.repeat(2), "shop": ["a", "b"] * len(months), "sales": [99.0, 98.5] * 36})
    frame["sales_budget"] = 110.0
    blank = frame["month"] >= "2024-11-01"
    frame.loc[blank, "sales"] = np.nan
    found = ga.check(frame)
    told = {one.check: one for one in found.problems}["rows to come"]
    assert (told.rows, len(found.table.aside), found.table.rows) == (4, 4, len(frame) - 4)
    assert "2024-10-01" in told.message
    # The answers: that they are, that they are not; and the log makes the same again.
    kept = ga.read(frame, answers={"rows to come": "keep"})
    assert kept.rows == len(frame)
    again = ga.read(frame, repairs=found.table.repair_log())
    assert again.arrow.equals(found.table.arrow)
    # Blanks that are common, or stand before others, or beside figures, are no rows to come.
    for others in (
        frame.assign(sales=np.where(np.arange(len(frame)) % 3 == 0, 5.0, np.nan)),
        frame.assign(sales=np.where(frame["month"] == "2023-03-01", np.nan, frame["sales"].fillna(1.5))),
        frame.assign(visits=np.arange(len(frame))),
    ):
        assert "rows to come" not in {one.check for one in ga.check(others).problems}
