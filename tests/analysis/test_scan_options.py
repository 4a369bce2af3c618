"""What the caller says: focus, ignore, better, floors, small groups, notes; each does just that."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga
from golden_almanac.api.scan import finding_floors, finding_kinds
from tests.analysis.detectors.tables import plain, planted


@pytest.fixture(scope="module")
def frame() -> pd.DataFrame:
    return planted()


def test_columns_of_interest_come_first(frame: pd.DataFrame) -> None:
    plainly, steered = ga.scan(frame).findings, ga.scan(frame, focus=["rate"]).findings
    scores = {one.id: one.score.total for one in plainly}
    assert {one.id for one in steered} == set(scores)
    of_rate = [one.measure is not None and one.measure.name == "avg(rate)" for one in steered]
    for one, touched in zip(steered, of_rate, strict=True):
        assert one.score.total == pytest.approx(scores[one.id] * (1.0 if touched else 0.7))
    was = [one.measure is not None and one.measure.name == "avg(rate)" for one in plainly]
    assert of_rate.index(True) < was.index(True)


def test_ignored_columns_take_no_part(frame: pd.DataFrame) -> None:
    scan = ga.scan(frame, ignore=["shop", "rate"])
    assert all(one.by != "shop" for one in (*scan.findings, *scan.folded))
    assert [measure.name for measure in scan.result.survey.measures] == ["sum(amount)"]


def test_better_and_worse(frame: pd.DataFrame) -> None:
    found = ga.scan(frame, better={"amount": "up", "avg(rate)": "up"}).findings
    verdicts = {(one.kind, one.where.label): one.good for one in found}
    assert verdicts["trend", "Ash"] is True
    assert verdicts["difference", "Cedar"] is False
    assert verdicts["seasonality", ""] is None
    assert all(one.good is None for one in ga.scan(frame).findings)


def test_floors_are_kept(frame: pd.DataFrame) -> None:
    trends = [one.where.label for one in ga.scan(frame, kinds=["trend"]).findings]
    assert "Ash" in trends
    high = ga.scan(frame, kinds=["trend"], floors={"trend": 500}).findings
    assert high == ()


def test_small_groups_are_not_told() -> None:
    frame = plain(6000)
    frame["shop"] = np.where(np.arange(6000) % 60 == 0, "Kiosk", frame["shop"])
    frame["rate"] = np.round(frame["rate"] + 15 * (frame["shop"] == "Kiosk"), 1)
    assert "Kiosk" in {one.where.label for one in ga.scan(frame).findings}
    scan = ga.scan(frame, least_rows=200)
    assert "Kiosk" not in {one.where.label for one in (*scan.findings, *scan.folded)}
    assert all("Kiosk" not in one.figures.get("order", ()) for one in scan.findings)


def test_notes_stand_beside_what_they_overlap(tmp_path: Path) -> None:
    frame = plain(9000)
    inside = frame["date"].between("2023-05-08", "2023-05-14")
    frame["late"] = inside | (np.random.default_rng(5).random(len(frame)) < 0.1)
    log = tmp_path / "notes.csv"
    log.write_text(
        "from,to,note,shop\n2023-05-09,2023-05-12,bridge closed,\n2023-05-09,2023-05-12,stock taking,Ash\n"
        "2023-08-01,,summer fair,\n"
    )
    (one,) = ga.scan(frame, kinds=["spike"], notes=log).findings
    assert one.notes == ("bridge closed (2023-05-09 to 2023-05-12)", "Ash: stock taking (2023-05-09 to 2023-05-12)")
    assert one.to_dict()["notes"] == list(one.notes)
    note = ga.Note(start=np.datetime64("2021-01-01"), end=np.datetime64("2021-01-02"), text="long ago")
    assert ga.scan(frame, kinds=["spike"], notes=[note]).findings[0].notes == ()


def test_public_holidays_are_named_beside_a_week() -> None:
    frame = plain(9000)
    inside = frame["date"].between("2023-05-01", "2023-05-07")
    frame["late"] = inside | (np.random.default_rng(5).random(len(frame)) < 0.1)
    table = ga.read(frame, calendar=ga.Calendar(holidays="NO"))
    (one,) = ga.scan(table, kinds=["spike"]).findings
    assert len(one.notes) == 1
    assert one.notes[0].endswith("(2023-05-01)")


@pytest.mark.parametrize(
    ("options", "said"),
    [
        ({"better": {"amount": "high"}}, "What is better for amount cannot be 'high': it must be up or down."),
        ({"floors": {"tend": 3}}, "The kind of the floor cannot be 'tend'"),
        ({"floors": {"trend": -1}}, "The floor of trend cannot be -1"),
        ({"least_rows": -5}, "The smallest group cannot be -5"),
        ({"focus": ["amont"]}, "amount"),
        ({"ignore": ["nothing"]}, "There is no column named 'nothing'"),
        ({"notes": "no-such-file.csv"}, "no-such-file.csv"),
    ],
)
def test_what_cannot_be_is_refused_in_a_sentence(frame: pd.DataFrame, options: dict[str, object], said: str) -> None:
    with pytest.raises(ga.AlmanacError) as caught:
        ga.scan(frame, **options)  # type: ignore[arg-type]
    assert said in str(caught.value)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("a,b\n1,2\n", "it is no note log"),
        ("from,to,note\n2023-13-01,,x\n", "row 2 has '2023-13-01' where a day belongs"),
        ("from,to,note\n2023-03-05,2023-03-01,x\n", "the note in row 2 ends before it starts"),
        ("from,to,note\n2023-03-05,,\n", "the note in row 2 has no text"),
    ],
)
def test_a_bad_note_log_says_where(tmp_path: Path, text: str, said: str) -> None:
    log = tmp_path / "log.csv"
    log.write_text(text)
    with pytest.raises(ga.SourceError) as caught:
        ga.read_notes(log)
    assert said in str(caught.value)


def test_floors_have_units() -> None:
    floors = finding_floors()
    assert floors["trend"] == (5.0, "percent over the leg")
    assert set(floors) < set(finding_kinds())
