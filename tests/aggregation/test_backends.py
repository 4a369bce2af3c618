"""One suite that every backend passes: any table, any keys, any slice, against a plain dictionary of groups."""

from __future__ import annotations

import hashlib
import math
import tempfile
from collections import defaultdict
from collections.abc import Iterator
from contextlib import contextmanager
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pandas as pd
import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pyarrow import parquet

import golden_almanac as ga
from golden_almanac.aggregation import PERIOD, Only, Survey, survey
from golden_almanac.analysis.scan_pipeline import survey_of
from golden_almanac.engine import filed_store
from golden_almanac.tables import Calendar, Guide, Table
from golden_almanac.tables.io import large_files

BACKENDS = ("rows in memory", "base in memory", "rows in a file", "base in a file", "base in stretches", "staged text")
MEASURES = ["sum(v)", "count(v)", "min(v)", "max(v)", "count(*)", "avg(v)", "count(distinct two)"]
KEYS = [(), ("one",), ("one", "two"), (PERIOD,), ("two", PERIOD), ("flag", "one", PERIOD), ("year", "flag")]
FIRST = np.datetime64("2024-01-01")

amounts = st.one_of(
    st.none(),
    st.integers(-(10**7), 10**7).map(lambda cents: cents / 100),
    st.floats(-1e6, 1e6, allow_nan=False),
    st.sampled_from([0.0, -0.0, 1e-300, -1e-300, 1e15, -1e15, 1e100, -1e100, 0.1, 123456789.123456]),
)
rows = st.lists(
    st.tuples(
        st.sampled_from(["a", "b c", "ü'\"", None]),
        st.sampled_from(["x", "y"]),
        st.sampled_from([True, False, None]),
        st.sampled_from([2023, 2024, None]),
        st.one_of(st.none(), st.integers(0, 400)),
        amounts,
    ),
    min_size=3,
    max_size=40,
)
slices = st.sampled_from(
    [
        Only(),
        Only((("one", "a"),)),
        Only((("one", None), ("two", "x"))),
        Only((("one", "not there"),)),
        Only((), (FIRST, FIRST + np.timedelta64(30, "D"))),
        Only((("flag", "yes"),), (FIRST + np.timedelta64(31, "D"), FIRST + np.timedelta64(59, "D"))),
        Only((("year", "2024"),), (FIRST + np.timedelta64(40, "D"), FIRST + np.timedelta64(70, "D"))),
    ]
)


def arrow_of(table: list[tuple[Any, ...]]) -> pa.Table:
    days = [None if r[4] is None else (FIRST + np.timedelta64(r[4], "D")).item() for r in table]
    return pa.table(
        {
            "one": pa.array([r[0] for r in table], pa.string()),
            "two": pa.array([r[1] for r in table], pa.string()),
            "flag": pa.array([r[2] for r in table], pa.bool_()),
            "year": pa.array([r[3] for r in table], pa.int64()),
            "day": pa.array(days, pa.date32()),
            "v": pa.array([r[5] for r in table], pa.float64()),
        }
    )


@contextmanager
def told(backend: str, arrow: pa.Table) -> Iterator[Table]:
    """The table as a backend has it, its base made or not, whatever its size."""
    with pytest.MonkeyPatch.context() as patch, tempfile.TemporaryDirectory() as folder:
        patch.setattr(survey, "LEAST_ROWS", 0)
        patch.setattr(survey, "WORTH", math.inf if "base" in backend or backend == "staged text" else -1.0)
        if backend == "base in stretches":
            patch.setattr(filed_store, "_SLAB", 5)
        if "memory" in backend:
            yield ga.read(arrow)
            return
        path = Path(folder) / ("t.csv" if backend == "staged text" else "t.parquet")
        if path.suffix == ".csv":
            arrow.to_pandas().to_csv(path, index=False, float_format="%.17g")
        else:
            parquet.write_table(arrow, path, row_group_size=8)
        made = large_files.filed([path], "t", Guide(), Calendar(), 2 << 30, several=False)
        assert made is not None
        assert not made.store.abilities.in_order
        yield made


def asked(table: Table, dated: bool) -> Survey:
    time, grain = ("day", "month") if dated else (None, None)
    return survey_of(table, measures=MEASURES, by=["one", "two", "flag", "year"], time=time, grain=grain)


@pytest.mark.parametrize("backend", BACKENDS[:-1])
@settings(max_examples=5, deadline=None)
@given(table=rows, only=slices)
def test_cells_are_the_dictionary_of_groups(backend: str, table: list[tuple[Any, ...]], only: Only) -> None:
    dated = any(row[4] is not None for row in table)
    if not any(row[5] is not None for row in table) or (only.span is not None and not dated):
        return
    with told(backend, arrow_of(table)) as made:
        wanted = asked(made, dated).kept(only)
        for keys in KEYS:
            if PERIOD not in keys or wanted.timeline is not None:
                check(wanted, keys, [row for row in table if _kept(row, only)], table)


def _kept(row: tuple[Any, ...], only: Only) -> bool:
    labels = _labels(row)
    inside = all(labels[column] == label for column, label in only.conditions)
    if only.span is None or not inside:
        return inside
    return row[4] is not None and only.span[0] <= FIRST + np.timedelta64(row[4], "D") <= only.span[1]


def _labels(row: tuple[Any, ...]) -> dict[str, str | None]:
    return {
        "one": row[0],
        "two": row[1],
        "flag": None if row[2] is None else "yes" if row[2] else "no",
        "year": None if row[3] is None else str(row[3]),
        PERIOD: None if row[4] is None else str(FIRST + np.timedelta64(row[4], "D"))[:7],
    }


def check(made: Survey, keys: tuple[str, ...], table: list[tuple[Any, ...]], whole: list[tuple[Any, ...]]) -> None:
    cells = made.cells(*keys)
    groups: dict[tuple[Any, ...], list[tuple[Any, ...]]] = defaultdict(list)
    for row in table:
        if PERIOD not in keys or row[4] is not None:
            groups[tuple(_labels(row)[key] for key in keys)].append(row)
    values = [cells.value(measure) for measure in made.measures]
    seen = 0
    for place in np.ndindex(cells.rows.shape):
        names = tuple(
            str(made.timeline.period(at).start)[:7] if key == PERIOD and made.timeline else cells.labels[axis][at]
            for axis, (key, at) in enumerate(zip(keys, place, strict=True))
        )
        group = groups.get(names, [])
        seen += len(group)
        assert cells.rows[place] == len(group)
        known = [row[5] for row in group if row[5] is not None]
        if group:
            assert values[4][place] == len(group)
            assert values[6][place] == len({row[1] for row in group})
        if not known:
            assert math.isnan(values[0][place])
            continue
        total = float(sum(map(Fraction, known)))
        # As many figures as a double has, of the sum itself: nothing is lost however it cancels.
        assert values[0][place] == pytest.approx(total, rel=1e-15, abs=1e-300)
        assert values[1][place] == len(known)
        assert values[2][place] == min(known)
        assert values[3][place] == max(known)
        assert values[5][place] == pytest.approx(total / len(known), rel=1e-14, abs=1e-300)
        squares = sum(Fraction(v) ** 2 for v in known)
        largest = max((Fraction(row[5]) ** 2 for row in whole if row[5] is not None), default=Fraction(0))
        own = cells.parts[made.measures[0].parts[0]].squares[place]
        assert own == pytest.approx(float(squares), rel=1e-12, abs=float(largest) * 1e-13 + 1e-300)
    assert seen == sum(len(group) for group in groups.values())


@settings(max_examples=8, deadline=None)
@given(table=rows)
def test_text_put_into_a_database_gives_the_same_cells(table: list[tuple[Any, ...]]) -> None:
    table = [(*row[:4], 0 if row[4] is None else row[4], row[5]) for row in table]
    # Enough of each kind that the first lines tell its type.
    table += [(one, "x", flag, 2024, 5, 1.5) for one in ("a", "b c") for flag in (True, False)]
    with told("staged text", arrow_of(table)) as made:
        assert {column.name: column.type for column in made.columns} == {
            "one": "text",
            "two": "text",
            "flag": "boolean",
            "year": "number",
            "day": "date",
            "v": "number",
        }
        wanted = asked(made, dated=True)
        for keys in KEYS:
            check(wanted, keys, table, table)


def _long(n: int = 60_000) -> pd.DataFrame:
    chance = np.random.default_rng(12)
    return pd.DataFrame(
        {
            "day": np.datetime64("2023-01-01") + chance.integers(0, 900, n).astype("timedelta64[D]"),
            "shop": chance.choice(list("abcdef"), n),
            "kind": chance.choice(list("xyz"), n),
            "v": np.exp(chance.normal(0, 9, n)),
            "w": np.round(chance.normal(0, 90, n), 2),
            "u": np.round(chance.normal(0, 9e11, n), 4),
        }
    )


def test_twenty_runs_give_the_same_bytes_on_every_backend(tmp_path: Path) -> None:
    """Sums are rounded once, so memory and file agree to the last bit; of squares, each backend has its own."""
    frame = _long()
    values, squares = set(), set()
    for run in range(20):
        mixed = frame.sample(frac=1, random_state=run) if run % 2 else frame
        path = tmp_path / f"{run}.parquet"
        mixed.to_parquet(path, index=False, row_group_size=20_000)
        left = large_files.filed([path], "t", Guide(), Calendar(), 2 << 30, several=False)
        assert left is not None
        for where, table in (("memory", ga.read(mixed)), ("file", left)):
            made = survey_of(
                table, measures=["sum(v)", "avg(w)", "avg(u)"], by=["shop", "kind"], time="day", grain="month"
            )
            assert made.plan().cells
            told, beside = hashlib.sha256(), hashlib.sha256()
            for keys in (("shop", PERIOD), ("kind",), ("shop", "kind", PERIOD)):
                cells = made.cells(*keys)
                for measure in made.measures:
                    told.update(cells.value(measure).tobytes())
                for part in cells.parts.values():
                    beside.update(part.squares.tobytes())
            values.add(told.hexdigest())
            squares.add((where, beside.hexdigest()))
    assert len(values) == 1
    assert len(squares) == 2
