"""What every backend must answer, and that nobody asks which one it is."""

from __future__ import annotations

import re
from dataclasses import replace
from pathlib import Path

import numpy as np
import pandas as pd
import pyarrow as pa
import pytest

import golden_almanac as ga
from golden_almanac.engine.store import Store
from tests.analysis.detectors.tables import planted
from tests.engine.backends import stores

BACKENDS = ("memory", "remote", "t.parquet", "t.csv")
ROWS = pd.DataFrame(
    {
        "day": pd.to_datetime(["2024-01-05", "2024-01-05", "2024-02-01", None, "2024-03-09"] * 40),
        "shop": ["Ash", "Birch", None, "Ash", "Elm d'Or"] * 40,
        "area": ["North", "South", "South", "North", "North"] * 40,
        "amount": [1.25, 2.5, None, -4.0, 1e6] * 40,
    }
)


@pytest.fixture(scope="module")
def backends(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Store]:
    arrow = pa.Table.from_pandas(ROWS, preserve_index=False)
    day = arrow.column("day").cast(pa.date32())
    return stores(arrow.set_column(0, "day", day), tmp_path_factory.mktemp("stores"))


@pytest.mark.parametrize("name", BACKENDS)
def test_a_backend_describes_its_columns(backends: dict[str, Store], name: str) -> None:
    store = backends[name]
    assert store.rows == 200
    counted = store.label_counts(["shop", "area"])
    assert counted["shop"][0] == ("Ash", "Birch", "Elm d'Or", None)
    assert counted["shop"][1].tolist() == [80, 40, 40, 40]
    assert counted["area"][1].tolist() == [120, 80]
    days, rows = store.day_counts("day")
    assert [str(day) for day in days] == ["2024-01-05", "2024-02-01", "2024-03-09"]
    assert rows.tolist() == [80, 40, 40]
    assert store.extents(["amount", "shop"]) == {"amount": (-4.0, 1e6), "shop": ("Ash", "Elm d'Or")}
    assert store.total("amount") == pytest.approx(40 * (1.25 + 2.5 - 4 + 1e6), rel=1e-11)
    assert store.codes("shop")[1] == counted["shop"][0]
    first, second = store.pairs([("shop", "area")])["shop", "area"]
    assert {(int(a), int(b)) for a, b in zip(first, second, strict=True)} == {(0, 0), (1, 1), (2, 0), (3, 1)}


@pytest.mark.parametrize("name", BACKENDS)
def test_a_backend_answers_and_keeps(backends: dict[str, Store], name: str) -> None:
    store = backends[name]
    assert store.query("SELECT count(*) AS n FROM source").column("n")[0].as_py() == 200
    assert store.foreign("SELECT max(amount) AS a FROM source").column("a")[0].as_py() == 1e6
    kept, which = store.kept("shop = 'Ash'")
    assert kept.rows == 80
    assert kept.label_counts(["shop"])["shop"][0] == ("Ash",)
    assert (which is None) == (not store.abilities.in_order)
    held, numbers = store.held("shop = 'Birch'", None, 1)
    assert held.abilities.in_order
    assert held.rows == numbers.size == 40
    assert store.first(5).num_rows == 5
    numbers = store.row_numbers(1)
    assert np.diff(numbers).tolist() == [1] * 199
    few, own = store.at([int(numbers[2]), int(numbers[7])], lambda: numbers)
    assert few.rows == 2
    assert own.tolist() == [numbers[2], numbers[7]]
    assert "shop" not in store.dropped(["shop"]).arrow().column_names
    recast = store.recast({"shop": "CASE WHEN shop = 'Ash' THEN 'Oak' ELSE shop END"})
    assert recast.label_counts(["shop"])["shop"][0] == ("Birch", "Elm d'Or", "Oak", None)


@pytest.mark.parametrize("name", BACKENDS)
def test_what_is_asked_twice_is_asked_once(backends: dict[str, Store], name: str) -> None:
    store = backends[name]
    for _ in range(2):
        assert store.label_counts(["shop"])["shop"] is store.label_counts(["shop"])["shop"] or name in (
            "memory",
            "remote",
        )
        assert store.day_counts("day")[0] is store.day_counts("day")[0]


def test_a_scan_says_the_same_of_every_backend(tmp_path: Path) -> None:
    frame = planted()
    table = ga.read(frame)
    kinds = ["trend", "shift", "seasonality", "difference", "ranking", "outlier"]
    told = {}
    for name, store in stores(table.arrow, tmp_path).items():
        scan = ga.scan(replace(table, store=store, _cache={}), kinds=kinds)
        told[name] = [one.headline for one in scan.findings]
        assert all(one.check().agrees for one in scan.findings)
    wanted = told.pop("memory")
    assert any("Ash" in one for one in wanted)
    # Of rows that are not at hand in their order, tests on rows take a sample: all else is the same.
    for name, headlines in told.items():
        assert [one for one in headlines if "Row" not in one] == [one for one in wanted if "Row" not in one], name


def test_nobody_asks_which_backend_it_is() -> None:
    package = Path(ga.__file__).parent
    asking = re.compile(r"isinstance\([^)]*\b(?:Filed|Held|Store|Remote)\b|\.filed\b")
    found = [
        str(path.relative_to(package))
        for path in sorted(package.rglob("*.py"))
        if path.parent.name != "engine" and asking.search(path.read_text("utf-8").replace("large_files.filed", ""))
    ]
    assert found == []
