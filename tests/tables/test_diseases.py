"""A clean table in random diseases reads back equal, and so does its repair log."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path

import openpyxl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import golden_almanac as ga
from tests.tables import diseases


def came_out(table: ga.Table) -> list[tuple[object, ...]]:
    names = diseases.Clean([]).names
    columns = [table.arrow.column(name).to_pylist() for name in names]
    return [(day, place, amount, count, flag) for day, place, amount, count, flag in zip(*columns, strict=True)]


@settings(max_examples=120, deadline=None)
@given(st.integers(0, 10**9), st.integers(16, 60))
def test_a_clean_table_in_random_diseases_reads_back_equal(seed: int, rows: int) -> None:
    wanted = diseases.clean(seed, rows)
    file = diseases.dressed(wanted, seed + 1)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "sick.csv"
        path.write_bytes(diseases.as_csv(file, seed + 2))
        before = path.read_bytes()
        table = ga.read(path)
        assert came_out(table) == wanted.rows, file.said
        assert table.rows_read == table.rows + len(table.aside)
        log = json.loads(json.dumps(table.repair_log()))
        again = ga.read(path, repairs=log)
        assert again.arrow.equals(table.arrow), file.said
        assert path.read_bytes() == before


@pytest.mark.parametrize("seed", range(12))
def test_the_same_in_a_workbook(tmp_path: Path, seed: int) -> None:
    wanted = diseases.clean(seed, 24)
    file = diseases.dressed(wanted, seed + 100)
    book = openpyxl.Workbook()
    sheet = book.active
    for row in file.cells:
        sheet.append(row)
    path = tmp_path / "sick.xlsx"
    book.save(path)
    table = ga.read(path)
    assert came_out(table) == wanted.rows, file.said
    assert ga.read(path, repairs=table.repair_log()).arrow.equals(table.arrow)
