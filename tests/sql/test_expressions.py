"""Expressions from people: plain ones pass, all others are refused with a sentence."""

from __future__ import annotations

from pathlib import Path

import duckdb
import pytest

import golden_almanac as ga
from golden_almanac.aggregation.measures import parse_measure


@pytest.mark.parametrize(
    "where",
    [
        "price > 2.6",
        "item = 'tea'",
        "ITEM = 'tea' AND units >= 4",
        "item IS NULL",
        "price BETWEEN 2 AND 3",
        "item IN ('tea', 'cake')",
        "item LIKE 't%'",
        "NOT sold",
        "coalesce(units, 0) = 0",
        "date >= DATE '2025-02-01'",
        "month(date) = 1",
        "abs(price - 4) < 1",
        "case when price > 3 then 1 else 0 end = 1",
        "lower(item) || 's' = 'teas'",
        "round(price) = 4",
        "length(item) > 3",
    ],
)
def test_plain_conditions_keep_the_rows_sql_keeps(shop: Path, where: str) -> None:
    table = ga.read(shop)
    source = table.arrow  # found by name in the query below
    wanted = duckdb.sql(f"SELECT count(*) FROM source WHERE {where}").fetchall()
    assert source.num_rows == 6
    assert table.filter(where).rows == wanted[0][0]


@pytest.mark.parametrize(
    "where",
    [
        "random() > 0.5",
        "price > (SELECT 1)",
        "now() > date",
        "current_date > date",
        "version() = 'x'",
        "getenv('HOME') = 'x'",
        "row_number() OVER () > 1",
        "price > ?",
        "price > $1",
        "sum(price) > 1",
        "1; DROP TABLE source",
        "DELETE FROM source",
        "COPY source TO 'x.csv'",
        "read_csv('secret.csv')",
        "current_user = 'x'",
        "price >",
        "",
        "uuid() = 'x'",
        "pg_sleep(9) = 1",
        "EXISTS (SELECT 1)",
        "price > 1 UNION SELECT 1",
        "setseed(0.1) IS NULL",
        "hash(item) > 1",
    ],
)
def test_others_are_refused(shop: Path, where: str) -> None:
    with pytest.raises(ga.ExpressionError):
        ga.read(shop).filter(where)


def test_unknown_columns_name_the_nearest(shop: Path) -> None:
    with pytest.raises(ga.ColumnError, match=r"no column named 'prise' .*Did you mean 'price'"):
        ga.read(shop).filter("prise > 1")
    with pytest.raises(ga.ColumnError, match="single quotes"):
        ga.read(shop).filter('item = "tea"')
    with pytest.raises(ga.ColumnError, match="The columns are date, item, price, units, sold"):
        ga.read(shop).filter("zzzzqqq > 1")


def test_a_condition_that_keeps_nothing_says_so(shop: Path) -> None:
    with pytest.raises(ga.SourceError, match="no row meets the condition"):
        ga.read(shop).filter("price > 100")


def test_rows_keep_their_number_in_the_file(shop: Path) -> None:
    assert ga.read(shop).filter("item = 'cake'").row_numbers().tolist() == [4, 5]


def test_names_with_quotes_and_spaces(tmp_path: Path) -> None:
    path = tmp_path / "odd.csv"
    path.write_text('"net ""sum""",b\n1,2\n5,6\n', encoding="utf-8")
    table = ga.read(path)
    assert table.names == ['net "sum"', "b"]
    assert table.filter('"net ""sum""" > 2').rows == 1
    measure = parse_measure('sum("net ""sum""")', table)
    assert table.sql(f"SELECT {measure.sql} AS v FROM source")["v"][0] == 6


def test_queries_are_single_selects_that_touch_nothing(shop: Path, tmp_path: Path) -> None:
    table = ga.read(shop)
    assert table.sql("SELECT sum(units) AS u FROM source")["u"][0] == 27
    for query in ("DROP TABLE source", "SELECT 1; SELECT 2", "COPY source TO 'x.csv'"):
        with pytest.raises(ga.ExpressionError):
            table.sql(query)
    for query in (
        f"SELECT * FROM read_csv('{shop}')",
        "SELECT * FROM 'shop.csv'",
        "SELECT * FROM duckdb_secrets() s, nowhere",
    ):
        with pytest.raises(ga.ExpressionError):
            table.sql(query)
    assert list(tmp_path.iterdir()) == [shop]
