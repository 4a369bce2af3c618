"""Keys between tables, and joins against the same join in SQL."""

from __future__ import annotations

from pathlib import Path

import duckdb
import numpy as np
import pandas as pd
import pytest
from hypothesis import given
from hypothesis import strategies as st

import golden_almanac as ga
from golden_almanac.api.join import join_named
from golden_almanac.demo import harbour_workbook


def sales(rows: int = 300) -> pd.DataFrame:
    chance = np.random.default_rng(5)
    return pd.DataFrame(
        {
            "day": pd.date_range("2025-01-01", periods=rows),
            "vessel": chance.choice(["Tern", "Gannet", "Puffin"], rows),
            "port_id": chance.choice([11, 12, 13, 14], rows),
            "revenue": np.round(chance.uniform(10, 900, rows), 2),
        }
    )


VESSELS = pd.DataFrame({"name": ["Tern", "Gannet", "Petrel"], "tons": [120.5, 88.0, 45.0], "yard": ["A", "B", "A"]})
PORTS = pd.DataFrame({"id": [11, 12, 13, 14], "region_id": [1, 1, 2, 2], "port": ["N", "S", "E", "W"]})
REGIONS = pd.DataFrame({"region_id": [1, 2], "region": ["Inner", "Outer"]})


def test_keys_are_found_and_the_star_keeps_every_amount() -> None:
    frame = sales()
    tables = ga.read_all({"sales": frame, "vessels": VESSELS, "ports": PORTS, "regions": REGIONS})
    assert {(one.left, one.right, one.on) for one in tables.links} == {
        ("sales", "vessels", "vessel = name"),
        ("sales", "ports", "port_id = id"),
        ("ports", "regions", "region_id"),
    }
    found = next(one for one in tables.links if one.right == "vessels")
    assert found.orphans == int((frame["vessel"] == "Puffin").sum())
    assert found.orphan_keys == ("Puffin",)
    assert found.unused == 1
    star = tables.star()
    assert star.names == ["day", "vessel", "port_id", "revenue", "region_id", "port", "region", "tons", "yard"]
    assert star.rows == 300
    assert star.numbers("revenue").sum() == pytest.approx(frame["revenue"].sum(), rel=1e-12)
    by_region = star.sql("SELECT region, sum(revenue) AS v FROM source GROUP BY 1 ORDER BY 1")
    with duckdb.connect() as connection:
        connection.register("s", frame)
        connection.register("p", PORTS)
        connection.register("r", REGIONS)
        wanted = connection.sql(
            "SELECT region, sum(revenue) AS v FROM s LEFT JOIN p ON s.port_id = p.id LEFT JOIN r USING (region_id) "
            "GROUP BY 1 ORDER BY 1"
        ).df()
    pd.testing.assert_frame_equal(by_region, wanted)
    # A ship's tons stand on many rows and must not be added up.
    assert star.column("tons").adds_up is False
    assert star.column("tons").role == "ignored"
    assert [one.name for one in ga.scan(star, measures=["tons"]).result.survey.measures] == ["avg(tons)"]
    assert star.with_roles(tons="measure").column("tons").adds_up is False
    scan = ga.scan(tables)
    assert "region" in [one.name for one in scan.result.survey.dimensions]


def test_many_rows_to_a_key_are_refused_unless_asked_for() -> None:
    twice = pd.concat([VESSELS, VESSELS.iloc[[0]]])
    with pytest.raises(ga.JoinError, match=r"1 key of table stands on several rows: 300 rows would become \d+") as told:
        ga.join(sales(), twice, {"vessel": "name"})
    assert "Sum up table to one row per name first" in str(told.value)
    with pytest.raises(ga.JoinError, match="instead, where each name stands once"):
        ga.join(VESSELS, sales(), {"name": "vessel"})
    both = ga.join(sales(), twice, {"vessel": "name"}, many_to_many=True)
    assert both.rows == 300 + int((sales()["vessel"] == "Tern").sum())
    assert both.column("revenue").adds_up is False


keys = st.lists(st.sampled_from(["a", "b", "c", "d", None]), min_size=1, max_size=25)


@given(
    keys,
    st.lists(st.sampled_from(["a", "b", "c", "e", None]), min_size=1, max_size=8),
    st.sampled_from(["left", "inner"]),
)
def test_every_join_is_the_join_of_sql(left: list[str | None], right: list[str | None], how: str) -> None:
    # Amounts that fall from row to row: none is the sum of others, so that no row is taken for a total.
    one = pd.DataFrame({"k": pd.Series(left, dtype="str"), "x": range(1000, 1000 - len(left), -1)})
    other = pd.DataFrame({"j": pd.Series(right, dtype="str"), "y": range(100, 100 - len(right), -1)})
    with duckdb.connect() as connection:
        connection.register("one", one)
        connection.register("other", other)
        wanted = connection.sql(f"SELECT k, x, y FROM one {how.upper()} JOIN other ON k = j ORDER BY x, y").fetchall()
    if how == "inner" and not wanted:
        with pytest.raises(ga.SourceError, match="no row finds"):
            ga.join(one, other, {"k": "j"}, how=how, many_to_many=True)
        return
    made = ga.join(one, other, {"k": "j"}, how=how, many_to_many=True)
    rows = sorted((tuple(row.values()) for row in made.arrow.to_pylist()), key=lambda row: (row[1], row[2] or 0))
    assert rows == wanted
    if how == "inner":
        assert {row.cells["x"] for row in made.aside} == set(one["x"]) - {row[1] for row in wanted}


def test_keys_of_two_columns_and_double_names() -> None:
    left = pd.DataFrame({"year": [2024, 2024, 2025, 2025] * 6, "shop": ["a", "b"] * 12, "sales": range(24)})
    right = pd.DataFrame({"year": [2024, 2024, 2025, 2025], "shop": ["a", "b", "a", "b"], "sales": [5, 6, 7, 8]})
    made = ga.join(ga.read(left, name="sales"), ga.read(right, name="plan"))
    assert made.names == ["year", "shop", "sales", "date", "plan sales"]
    assert made.arrow.column("plan sales").to_pylist() == [5, 6, 7, 8] * 6


def test_numbers_that_match_by_chance_are_no_keys() -> None:
    left = pd.DataFrame({"guests": [1, 2, 3, 4] * 10, "fee": range(40)})
    right = pd.DataFrame({"berth": [1, 2, 3, 4, 5], "depth": [3, 4, 5, 6, 7]})
    assert ga.read_all({"sailings": left, "berths": right}).links == ()
    with pytest.raises(ga.JoinError, match="No key that leads from"):
        ga.join(ga.read(left, name="sailings"), ga.read(right, name="berths"))
    with pytest.raises(ga.JoinError, match="No key between the tables"):
        ga.read_all({"sailings": left, "berths": right}).star()
    with pytest.raises(ga.RequestError, match="did you mean 'berths'"):
        ga.read_all({"sailings": left, "berths": right})["berth"]


def test_the_sheets_of_a_workbook_and_a_named_join(tmp_path: Path) -> None:
    path = tmp_path / "harbour-office.xlsx"
    path.write_bytes(harbour_workbook.workbook())
    tables = ga.read_all(path)
    assert list(tables) == ["Moorings", "Quay dues", "Tonnage", "Vessels"]
    assert [(one.left, one.right, one.on) for one in tables.links] == [("Moorings", "Vessels", "Vessel = Name")]
    by_name = join_named(ga.read(path), path, "Vessels on Vessel = Name")
    assert by_name.arrow.column("Built").to_pylist() == tables.star().arrow.column("Built").to_pylist()
    VESSELS.to_csv(tmp_path / "vessels.csv", index=False)
    with pytest.raises(ga.JoinError, match="no repair log of its own"):
        by_name.repair_log()
    with pytest.raises(ga.ColumnError, match="no column named 'nam'"):
        join_named(ga.read(path), path, f"{tmp_path / 'vessels.csv'} on Vessel = nam")
