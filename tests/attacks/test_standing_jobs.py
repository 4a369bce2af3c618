"""The standing jobs under attack: labels and names that would be SQL, formulas or markup; what is private; small groups;
rows in any order; tables that have next to nothing in them."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import openpyxl
import pandas as pd
import pytest
from bench.ledger import clinic, frame_of, monthly

import golden_almanac as ga

from .kit import attack, done, refused, texts

#: Names of accounts, companies and regions that are something else to a database, a workbook, a page, a terminal.
HOSTILE = ["'; DROP TABLE source; --", '"a" OR 1=1', "=1+1", "@SUM(A1)", "<script>alert(1)</script>", "{{ report }}",
           "\x1b[31mred", "a\u202eb", "–", "x, y", "100%", "{n} of {m}"]  # fmt: skip
SECRET = "Vermilion"


def _books(names: list[str], column: str = "account") -> pd.DataFrame:
    _, amounts = monthly(4)
    frame = frame_of(["4000 Revenue", *names], amounts[: len(names) + 1])
    frame.loc[(frame["account"] == names[0]) & (frame["month"] == "2023-05-01"), "amount"] *= -1
    frame["place"] = [HOSTILE[row % 3] for row in range(len(frame))]
    return frame.rename(columns={"account": column})


def _companies(names: list[str]) -> pd.DataFrame:
    random = np.random.default_rng(3)
    frame = pd.DataFrame({"company": names, "kind": [HOSTILE[2]] * len(names)})
    frame["revenue"] = random.uniform(800, 1200, len(names)).round(2)
    frame["fuel"] = (frame["revenue"] * random.normal(0.2, 0.01, len(names))).round(2)
    frame["wages"] = (frame["revenue"] * random.normal(0.3, 0.02, len(names))).round(2)
    return frame


def _results() -> dict[str, Any]:
    own = _companies(["We"]).assign(fuel=400.0)
    books = ga.read(_books(HOSTILE))
    return {
        "ledger": ga.review_ledger(books, "account", period="month"),
        "peers": ga.peers(own, _companies(HOSTILE), size="revenue", category="kind"),
        "table": ga.table_of(books, ["account"], "place", "sum(amount)", shares=True, top=5),
        "spans": ga.table_of(books, ["place", "account"], ["2023", "2024"], "sum(amount)"),
    }


@pytest.fixture(scope="module")
def results() -> dict[str, Any]:
    return _results()


def test_hostile_labels_are_labels_in_every_statement(results: dict[str, Any]) -> None:
    """Each SELECT that is shown runs, and gives what was told."""
    books = results["ledger"]
    first = books.result.questions[0]
    assert (first.kind, first.account) == ("sign", HOSTILE[0])
    found = books.result.books.table.sql(books.check_sql(first))
    assert found["value"][0] == pytest.approx(first.value)
    assert len(books.result.books.table.sql(books.sql)) > 100
    if books.margin is not None:
        assert len(books.result.books.table.sql(books.margin.sql)) == len(HOSTILE) + 1
    peers = results["peers"]
    assert set(peers.result.chosen.names) <= set(HOSTILE)
    checked = peers.result.peers.sql(peers.sql)
    assert checked["fuel / revenue, median"][0] == pytest.approx(
        peers.to_frame().set_index("measure").loc["fuel", "median"]
    )
    for name in ("table", "spans"):
        table = results[name]
        assert len(table.result.table.sql(table.sql)) >= len(HOSTILE)


@pytest.mark.parametrize("name", ["ledger", "peers", "table", "spans"])
def test_hostile_labels_are_text_in_every_format(results: dict[str, Any], name: str, tmp_path: Path) -> None:
    formats = ["html", "xlsx", "docx", "pptx", "pdf", "md", "eml", "json"]
    results[name].report().publish(tmp_path, formats=formats)
    for place, text in texts(tmp_path):
        if place.endswith(".html"):  # Markdown shows SQL as it is, in a fence.
            assert "<script>alert(1)</script>" not in text, place
        assert "\x1b[31m" not in text, place
    sheet = openpyxl.load_workbook(tmp_path / "report.xlsx")
    for page in sheet:
        for row in page.iter_rows():
            for cell in row:
                assert cell.data_type != "f" or not str(cell.value).startswith(("=1+1", "=@SUM")), cell.coordinate


@pytest.mark.parametrize("name", ["ledger", "peers", "table", "spans"])
def test_hostile_labels_are_shown_in_a_terminal_and_not_obeyed(results: dict[str, Any], name: str) -> None:
    shown = f"{results[name]!r}\n{results[name].summary()}\n" + "\n".join(map(str, results[name].tables()))
    assert "\x1b" not in shown
    assert "\u202e" not in shown
    # Braces of a label are no slots.
    json.dumps(results[name].to_dict())


def test_a_hostile_column_is_a_column(tmp_path: Path) -> None:
    for column in ('acc"ount', "=cmd", "acc ount; --"):
        told = ga.review_ledger(_books(HOSTILE[:6], column), column, "amount", "month")
        assert told.result.questions[0].kind == "sign"
        told.result.books.table.sql(told.check_sql(told.result.questions[0]))
        printed = ga.table_of(_books(HOSTILE[:6], column), column, "year", "sum(amount)")
        assert printed.tables()[0].total


def _write(tmp_path: Path) -> dict[str, Path]:
    books = _books([SECRET, *HOSTILE[:5]])
    books["clerk"] = [f"{SECRET} {row % 4}" for row in range(len(books))]
    books.to_csv(tmp_path / "books.csv", index=False)
    peers = _companies(["Ash", "Birch", "Cedar", "Elm", "Fir"])
    peers["owner"] = [f"{SECRET} {row}" for row in range(len(peers))]
    peers.to_csv(tmp_path / "peers.csv", index=False)
    _companies(["We"]).assign(owner=f"{SECRET} ours").to_csv(tmp_path / "own.csv", index=False)
    return {name: tmp_path / f"{name}.csv" for name in ("books", "peers", "own")}


def test_a_private_column_reaches_no_standing_job(tmp_path: Path) -> None:
    files = _write(tmp_path)
    books = pd.read_csv(files["books"])
    books[books["account"] != SECRET].to_csv(files["books"], index=False)
    out = tmp_path / "out"
    out.mkdir()
    told = [
        done("ledger", files["books"], "--account", "account", "--private", "clerk", "-o", out / "l.html", "-o", out / "l.xlsx"),
        done("table", files["books"], "--rows", "account", "--private", "clerk", "-m", "amount", "-o", out / "t.html"),
        done("peers", files["own"], files["peers"], "--private", "owner", "-o", out / "p.html"),
        done("ledger", files["books"], "--account", "account", "--private", "clerk", "--json"),
    ]  # fmt: skip
    assert not any(SECRET in text for text in told)
    assert not any(SECRET in text for _, text in texts(out))
    for command in (
        ("ledger", files["books"], "--account", "clerk"),
        ("table", files["books"], "--rows", "clerk"),
        ("table", files["books"], "--rows", "account", "--columns", "clerk"),
        ("table", files["books"], "--rows", "account", "-m", "count(DISTINCT clerk)"),
    ):
        assert "clerk" in refused(*command, "--private", "clerk")
    assert "owner" in refused("peers", files["own"], files["peers"], "--private", "owner", "--category", "owner")


def test_groups_of_a_least_size_are_not_got_round(tmp_path: Path) -> None:
    files = _write(tmp_path)
    assert "single postings" in refused("ledger", files["books"], "--account", "account", "--minimum-group", "5")
    with pytest.raises(ga.AlmanacError, match="one by one"):
        ga.peers(files["own"], ga.read(files["peers"], minimum_group=2))
    small = ("table", files["books"], "--rows", "account", "--columns", "2023-01", "--columns", "2023-02")
    assert "fewer columns" in refused(*small, "--minimum-group", "5")


def test_rows_in_any_order_give_the_same_bytes() -> None:
    frame, _ = clinic(3, "twice")
    mixed = frame.sample(frac=1.0, random_state=1)
    base = ["R1 Treatment fees", "R2 Laboratory fees"]

    def told(rows: pd.DataFrame) -> list[str]:
        made = [
            ga.review_ledger(rows, "account", base=base).to_dict(),
            ga.table_of(rows, "account", "year", "sum(amount)").to_dict(),
        ]
        for one in made:
            # The row numbers that problems name are those of the file.
            one.pop("readiness")
        return [json.dumps(one, sort_keys=True) for one in made]

    assert told(frame) == told(mixed) == told(frame)
    peers = _companies([f"Firm {place:02d}" for place in range(12)])
    own = _companies(["We"])
    one, other = (ga.peers(own, rows).to_dict() for rows in (peers, peers.sample(frac=1.0, random_state=2)))
    assert one["lines"] == other["lines"]
    assert one["chosen"] == other["chosen"]


def _ledger(frame: pd.DataFrame) -> Any:
    return ga.review_ledger(frame, "account", "amount", "month")


def _table(frame: pd.DataFrame) -> Any:
    return ga.table_of(frame, "account", "year", "sum(amount)")


@pytest.mark.parametrize("make", [_ledger, _table])
@pytest.mark.parametrize("kind", ["constant", "nought", "one account", "missing", "two months", "huge", "tiny"])
def test_next_to_nothing_is_borne(make: Callable[[pd.DataFrame], Any], kind: str) -> None:
    """Nothing falls over, nothing is claimed of what says nothing."""
    names, amounts = monthly(6)
    frame = frame_of(names[:5], amounts[:5])
    if kind == "constant":
        frame["amount"] = 100.0
    elif kind == "nought":
        frame["amount"] = 0.0
    elif kind == "one account":
        frame = frame[frame["account"] == names[1]]
    elif kind == "missing":
        frame.loc[frame.index % 2 == 0, "amount"] = np.nan
    elif kind == "two months":
        frame = frame[frame["month"] < "2022-04-01"]
    elif kind == "huge":
        frame["amount"] *= 1e9
    else:
        frame["amount"] *= 1e-6
    found = make(frame)
    json.dumps(found.to_dict())
    text = str(found.summary())
    assert "nan" not in text.lower().split()
    found.report()
    if kind in ("constant", "nought", "two months") and make is _ledger:
        assert not found.result.questions


def test_what_a_ledger_lacks_is_refused_in_a_sentence(tmp_path: Path) -> None:
    (tmp_path / "no_dates.csv").write_text("account,amount\na,1.5\nb,2.5\nc,3.5\n", "utf-8")
    (tmp_path / "one_month.csv").write_text("account,month,amount\na,2024-01-31,1.5\nb,2024-01-31,2.5\n", "utf-8")
    (tmp_path / "texts.csv").write_text("account,month,amount\na,2024-01-31,x\nb,2024-02-29,y\n", "utf-8")
    for name, said in (("no_dates", "no dates"), ("one_month", "no month can be told"), ("texts", "not amounts")):
        told = refused("ledger", tmp_path / f"{name}.csv", "--account", "account", "--amount", "amount")
        assert said in told, told
    assert attack("ledger", tmp_path / "no_dates.csv").returncode == 2
    assert "There is no column" in refused("table", tmp_path / "no_dates.csv", "--rows", "nothing")
