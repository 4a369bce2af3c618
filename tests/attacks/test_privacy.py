"""Private columns do not exist for anything downstream; small groups reach no output, nor what gives them away."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga

from .kit import attack, done, nowhere, refused, sound, texts

FORMATS = ["html", "pdf", "pptx", "docx", "xlsx", "md", "eml", "json", "csv", "png", "svg"]
SECRETS = ["Zebulon", "Quirrel", "Ottoline"]


@pytest.fixture
def crossings(tmp_path: Path) -> Path:
    """900 crossings with who steered each, and a quay with three rows only."""
    rng = np.random.default_rng(11)
    rows = 900
    frame = pd.DataFrame(
        {
            "date": np.datetime64("2024-01-01") + np.sort(rng.integers(0, 700, rows)).astype("timedelta64[D]"),
            "quay": rng.choice(["North", "South", "Mole", "Ness"], rows, p=[0.45, 0.35, 0.15, 0.05]),
            "boat": rng.choice(["Tern", "Plover"], rows),
            "helmsman": rng.choice([f"{name} {surname}" for name in SECRETS for surname in ("Ames", "Bell")], rows),
            "fare": np.round(rng.gamma(4, 20, rows), 2),
            "late": rng.poisson(6, rows),
        }
    )
    frame.loc[[100, 400, 800], "quay"] = "Hermitage"
    frame.loc[[100, 400, 800], "fare"] = [7123.25, 8456.5, 9789.75]
    frame.loc[frame["boat"] == "Tern", "late"] += 3
    path = tmp_path / "crossings.csv"
    frame.to_csv(path, index=False)
    return path


def brief(folder: Path, text: str) -> Path:
    path = folder / "brief.toml"
    path.write_text(text, encoding="utf-8")
    return path


NAMED = [
    'by = ["helmsman"]',
    "where = \"helmsman = 'Zebulon Ames'\"",
    'focus = ["helmsman"]',
    'ignore = ["helmsman"]',
    'time = "helmsman"',
    'measures = ["count(distinct helmsman)"]',
    'switch = "helmsman"',
    'pages = "helmsman"',
    'better = {"count(distinct helmsman)" = "up"}',
    '[[section]]\nshow = "who"\nsql = "SELECT helmsman, sum(fare) FROM source GROUP BY 1"',
    '[[section]]\nshow = "who"\nsql = "SELECT \\"HELMSMAN\\" AS x FROM source"',
    '[[section]]\nshow = "who"\nsql = "WITH t AS (SELECT * FROM source) SELECT max(t.helmsman) FROM t"',
    '[[section]]\ndraw = "bars"\nsql = "SELECT upper(helmsman) AS a, count(*) AS n FROM source GROUP BY 1"',
    '[[section]]\nchange = "count(distinct helmsman)"',
    '[[section]]\ndrivers = "helmsman"',
    '[[section]]\ncompare = "late"\nby = "helmsman"',
    '[[section]]\ncompare = "helmsman"\nby = "boat"',
]


@pytest.mark.parametrize("named", NAMED)
def test_a_private_column_cannot_be_named_anywhere_in_a_brief(crossings: Path, named: str) -> None:
    folder = crossings.parent
    asked = brief(folder, f'source = "crossings.csv"\nprivate = ["helmsman"]\nformats = ["json"]\n{named}\n')
    told = refused("publish", asked)
    assert "private" in told
    assert not any(name in told.replace("'Zebulon Ames'", "") for name in SECRETS)
    assert not (folder / "editions").exists()


def test_a_private_column_reaches_no_output(crossings: Path) -> None:
    folder = crossings.parent
    text = (
        f'source = "crossings.csv"\nprivate = ["HELMSMAN"]\nformats = {json.dumps(FORMATS)}\n'
        'switch = "boat"\n[[section]]\nshow = "all"\nsql = "SELECT * FROM source LIMIT 50"\n'
        '[[section]]\ndrivers = "late"\n[[section]]\ncompare = "late"\nby = "boat"\n[[section]]\nchange = "fare"\n'
    )
    done("publish", brief(folder, text))
    nowhere([*SECRETS, "helmsman", "Ames", "Bell"], folder / "editions")


@pytest.mark.parametrize("ending", [".csv", ".parquet", ".json", ".xlsx", ".sqlite", ".duckdb"])
def test_a_private_column_is_dropped_whatever_the_door(crossings: Path, tmp_path: Path, ending: str) -> None:
    frame = pd.read_csv(crossings)
    path = tmp_path / f"crossings-of-all{ending}"
    if ending == ".parquet":
        frame.to_parquet(path)
    elif ending == ".json":
        frame.to_json(path, orient="records")
    elif ending == ".xlsx":
        frame.to_excel(path, index=False)
    elif ending == ".sqlite":
        import sqlite3

        with sqlite3.connect(path) as base:
            frame.to_sql("crossings", base, index=False)
    elif ending == ".duckdb":
        import duckdb

        with duckdb.connect(str(path)) as other:
            other.register("frame", frame)
            other.execute("CREATE TABLE crossings AS SELECT * FROM frame")
    else:
        frame.to_csv(path, index=False)
    for command in (["check"], ["check", "--json"], ["scan", "--json"], ["check", "--sql", "SELECT * FROM source"]):
        told = done(command[0], path, *command[1:], "--private", "helmsman")
        assert not any(word in told for word in (*SECRETS, "helmsman"))
    if ending in (".sqlite", ".duckdb"):
        sql = "SELECT helmsman AS x, fare FROM crossings"
        assert "private" in refused("check", path, "--query", sql, "--private", "helmsman")
        told = done("check", path, "--json", "--query", "SELECT * FROM crossings", "--private", "helmsman")
        assert not any(word in told for word in (*SECRETS, "helmsman"))
    assert "private" in refused("check", path, "--sql", "SELECT count(helmsman) FROM source", "--private", "helmsman")


def test_a_private_column_of_a_long_parquet_file_is_dropped_too(tmp_path: Path) -> None:
    rows = 1_100_000
    frame = pd.DataFrame({"boat": ["Tern", "Plover"] * (rows // 2), "fare": 1.5, "helmsman": ["Zebulon"] * rows})
    frame.to_parquet(tmp_path / "long.parquet")
    table = ga.read(tmp_path / "long.parquet", private=["helmsman"], minimum_group=5)
    assert table.names == ["boat", "fare"]
    assert list(table.sql("SELECT count(*) AS n FROM source GROUP BY boat")["n"]) == [rows // 2] * 2
    with pytest.raises(ga.ColumnError, match="private"):
        table.filter("helmsman = 'Zebulon'")


def test_rows_set_aside_and_repairs_do_not_quote_a_private_column(tmp_path: Path) -> None:
    path = tmp_path / "quay.csv"
    lines = ["Quay dues 2024,,,", "date,quay,helmsman,dues"]
    lines += [f"2024-01-{day:02d},North,Zebulon {day},{day * 10}" for day in range(1, 29)]
    lines += ["Total,,Zebulon,4060"]
    path.write_text("\n".join(lines) + "\n", encoding="utf-8")
    for name, option in (("fixed.csv", "--fix"), ("log.json", "--repairs"), ("aside.csv", "--aside")):
        done("check", path, "--private", "helmsman", option, tmp_path / name)
        assert "Zebulon" not in (tmp_path / name).read_text(encoding="utf-8")


def test_a_private_name_that_is_not_there_is_refused(crossings: Path) -> None:
    assert "Did you mean 'helmsman'" in refused("scan", crossings, "--private", "helmsmn")
    assert "private" in refused("scan", crossings, *(f"--private={n}" for n in pd.read_csv(crossings).columns))


def test_a_private_column_of_a_joined_table_is_left_out(crossings: Path, tmp_path: Path) -> None:
    (tmp_path / "boats.csv").write_text("name,skipper,tons\nTern,Ottoline,400\nPlover,Quirrel,300\n", "utf-8")
    told = done(
        "check", crossings, "--join", f"{tmp_path / 'boats.csv'} on boat = name", "--private", "skipper",
        "--private", "helmsman", "--sql", "SELECT * FROM source LIMIT 3",
    )  # fmt: skip
    assert "tons" in told
    assert not any(word in told for word in (*SECRETS, "skipper"))


SMALL = 'source = "crossings.csv"\nminimum_group = 5\n'


def test_a_small_group_reaches_no_output(crossings: Path) -> None:
    folder = crossings.parent
    text = SMALL + (
        f'formats = {json.dumps(FORMATS)}\nprivate = ["helmsman"]\npages = "boat"\nswitch = "boat"\n'
        '[[section]]\ndrivers = "late"\n[[section]]\ncompare = "late"\nby = "quay"\n'
        '[[section]]\ncompare = "boat"\nby = "quay"\n[[section]]\nchange = "fare"\n'
        '[[section]]\nshow = "quays"\nsql = "SELECT quay, sum(fare) AS fare FROM source GROUP BY 1 ORDER BY sum(fare)"\n'
        '[[section]]\ndraw = "bars"\nsql = "SELECT quay, avg(late) AS late FROM source GROUP BY quay"\n'
    )
    done("publish", brief(folder, text))
    nowhere(["Hermitage", "7,123", "8,456", "9,789", "7123.25", "8456.5", "9789.75", "25369"], folder / "editions")


def test_slices_of_two_columns_leave_no_few_over(crossings: Path) -> None:
    """A slice of both columns with few rows is what the other slices leave over of the whole: none of them is shown."""
    frame = pd.read_csv(crossings).query("quay in ('North', 'South', 'Mole')").reset_index(drop=True)
    few = frame.index[(frame["quay"] == "Mole") & (frame["boat"] == "Tern")][7:]
    table = ga.read(frame.drop(index=few), minimum_group=20)
    views = ga.scan(table, measures=["sum(fare)"], by=["quay", "boat"]).report(switch=["quay", "boat"]).views
    assert views
    assert all(None in labels for labels, _ in views)
    whole = ga.read(frame, minimum_group=20)
    views = ga.scan(whole, measures=["sum(fare)"], by=["quay", "boat"]).report(switch=["quay", "boat"]).views
    assert any(None not in labels for labels, _ in views)


def test_a_total_does_not_give_a_small_group_away(crossings: Path) -> None:
    table = ga.read(crossings, minimum_group=5)
    whole = pd.read_csv(crossings)
    groups = table.sql("SELECT quay, count(*) AS n, sum(fare) AS fare FROM source GROUP BY quay")
    # What is put together holds the next smallest as well: it is nobody's figure.
    other = groups.loc[groups["quay"] == "(other)"].iloc[0]
    assert set(groups["quay"]) == {"North", "South", "Mole", "(other)"}
    kept = whole["quay"].isin(["Hermitage", "Ness"])
    assert other["n"] == kept.sum()
    assert groups["fare"].sum() == pytest.approx(whole["fare"].sum())


def test_a_small_group_is_hidden_within_its_region_too(tmp_path: Path) -> None:
    rows = [("East", "A"), ("East", "B"), ("West", "C"), ("West", "D")]
    frame = pd.DataFrame([pair for pair, n in zip(rows, (40, 3, 50, 4), strict=True) for _ in range(n)])
    frame.columns = ["region", "port"]
    frame["fare"] = np.arange(len(frame)) + 1.0
    table = ga.read(frame, minimum_group=5)
    shown = table.sql("SELECT region, port, count(*) AS n FROM source GROUP BY 1, 2")
    # D alone would be West less C, and B alone East less A: the large ones are put together with them.
    assert set(shown["port"]) == {"(other)"}
    assert list(shown.sort_values("region")["n"]) == [43, 54]


LISTING = [
    "SELECT * FROM source",
    "SELECT helmsman, fare FROM source LIMIT 1",
    "SELECT max(fare) FROM source",
    "SELECT quay, min(late) FROM source GROUP BY 1",
    "SELECT sum(CASE WHEN quay = 'Hermitage' THEN fare END) FROM source",
    "SELECT sum(fare) FILTER (WHERE quay = 'Hermitage') FROM source",
    "SELECT list(fare) FROM source",
    "SELECT quay, sum(fare) OVER () FROM source",
    "SELECT quay, sum(fare) FROM source GROUP BY quay HAVING count(*) < 5",
    "SELECT quay, sum(fare) FROM source GROUP BY ROLLUP (quay)",
    "SELECT sum(f) FROM (SELECT fare AS f FROM source)",
    "WITH t AS (SELECT fare FROM source LIMIT 1) SELECT sum(fare) FROM t",
    "SELECT DISTINCT quay FROM source",
    "SELECT a.quay, sum(a.fare) FROM source a, source b GROUP BY 1",
    "SELECT sum(fare) FROM source UNION ALL SELECT fare FROM source",
]


@pytest.mark.parametrize("sql", LISTING)
def test_sql_shows_no_rows_where_groups_have_a_least_size(crossings: Path, sql: str) -> None:
    refused("check", crossings, "--minimum-group", "5", "--sql", sql)


def test_sql_leaves_small_groups_out(crossings: Path) -> None:
    sql = "SELECT late, count(*) AS n, sum(fare) AS fare FROM source GROUP BY late ORDER BY n"
    table = ga.read(crossings, minimum_group=30)
    shown, whole = table.sql(sql), ga.read(crossings).sql(sql)
    assert shown["n"].min() >= 30
    assert list(shown["n"]) == sorted(shown["n"])
    assert whole["n"].sum() - shown["n"].sum() >= 30 or len(whole) == len(shown)


@pytest.mark.parametrize("command", [["check"], ["check", "--json"], ["scan"], ["scan", "--json"]])
def test_commands_fold_small_groups_too(crossings: Path, command: list[str]) -> None:
    told = done(command[0], crossings, *command[1:], "--minimum-group", "5", "--private", "helmsman")
    assert "Hermitage" not in told
    assert "7123" not in told.replace(",", "")


@pytest.mark.parametrize("size", ["nan", "inf", "-3", "2.5", "true", '"5"'])
def test_a_least_size_that_is_none_is_refused(crossings: Path, size: str) -> None:
    asked = brief(crossings.parent, f'source = "crossings.csv"\nminimum_group = {size}\n')
    told = refused("publish", asked)
    assert "group" in told
    assert not (crossings.parent / "editions").exists()


def test_rows_by_themselves_are_not_looked_for(crossings: Path) -> None:
    assert "least size" in refused("scan", crossings, "--minimum-group", "5", "-k", "outlier")
    found = json.loads(attack("scan", crossings, "--minimum-group", "5", "--json").stdout)
    assert not {one["kind"] for one in found["findings"]} & {"outlier", "distribution"}


def test_comparing_periods_counts_the_rows_in_each(tmp_path: Path) -> None:
    days = pd.date_range("2023-01-01", "2024-12-31")
    frame = pd.DataFrame({"date": days.repeat(4), "quay": ["North", "South", "Mole", "Ness"] * len(days), "fare": 9.0})
    # Ness has rows enough in all, but two in the later year.
    late = frame.index[(frame["quay"] == "Ness") & (frame["date"] >= "2024-01-01")]
    frame = frame.drop(late[2:])
    change = ga.explain_change(ga.read(frame, minimum_group=5), "sum(fare)", period="2024", baseline="2023")
    labels = {part.label for one in change.explanation.breakdowns for part in one.contributions}
    assert "Ness" not in labels
    assert "(other)" in labels
    for _, text in texts_of_report(change, tmp_path):
        assert "Ness" not in text


def texts_of_report(change: ga.Change, folder: Path) -> list[tuple[str, str]]:
    change.report().publish(folder / "out", formats=["html", "json", "xlsx", "pptx"])
    return list(texts(folder / "out"))


def test_errors_do_not_quote_private_values(crossings: Path) -> None:
    for asked in (
        ["scan", "-w", "quay = 'Nowhere'"],
        ["scan", "-b", "helm"],
        ["compare", "-m", "late", "-b", "helmsmn"],
    ):
        found = attack(asked[0], crossings, *asked[1:], "--private", "helmsman")
        assert found.returncode == 2
        sound(found)
        assert not any(name in found.stderr for name in (*SECRETS, "'helmsman'"))


def test_results_over_rows_show_none_by_itself(crossings: Path) -> None:
    table = ga.read(crossings, minimum_group=8, private=["helmsman"])
    fares = set(np.round(table.numbers("fare"), 6))
    relation = ga.relate(table, "fare", "late").chart()
    drawn = {
        round(float(y), 6)
        for line in relation.figure.axes[0].lines
        for y in line.get_ydata()
        if len(line.get_ydata()) > 9
    }
    assert len(drawn & fares) <= 2
    compared = ga.compare(table, "fare", "boat")
    assert compared.chart().name == "means"
    assert set(compared.chart().data.columns) & {"low", "high"}
    residuals = ga.regress(table, "fare", factors=["late"]).chart(kind="residuals")
    assert len(residuals.data) <= 60
    crossed = ga.compare(ga.read(crossings, minimum_group=40, private=["helmsman"]), "boat", "quay").to_dict()
    assert all(n == 0 or n >= 40 for row in crossed["crosstab"]["counts"] for n in row)
