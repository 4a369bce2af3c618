"""What a brief states of measures and columns: units, decimals, hierarchies, orders, synonyms, questions."""

from __future__ import annotations

from pathlib import Path

import pandas as pd
import pytest

import golden_almanac as ga

from ..commands import run

BRIEF = """
source = "visits.csv"
content = "findings"
formats = ["md"]

[[measure]]
sql = "sum(fee) / count(*)"
name = "mean fee"
unit = "EUR"
decimals = 2

[[measure]]
sql = "sum(kept) / count(*)"
name = "kept rate"
unit = "%"
decimals = 2

[[measure]]
sql = "sum(fee)"
decimals = 0

[[dimension]]
column = "ward"
hierarchy = ["wing", "house"]
synonyms = ["floor", "care unit"]

[[dimension]]
column = "severity"
order = ["mild", "middling", "grave"]
"""


def _visits() -> pd.DataFrame:
    days = pd.date_range("2024-01-01", "2025-06-30", freq="D")
    wards = ["A1", "A2", "B1", "B2", "C1"]
    rows = []
    for place, day in enumerate(days):
        for j, ward in enumerate(wards):
            severity = ("grave", "mild", "middling")[(place + j) % 3]
            fee = 100 + 25 * j + (place * 7 + j * 3) % 11 + 0.25
            rows.append((day, ward, ward[0], "East" if ward[0] < "C" else "West", severity, fee, (place + j) % 4 > 0))
    frame = pd.DataFrame(rows, columns=["day", "ward", "wing", "house", "severity", "fee", "kept"])
    return frame.assign(kept=frame["kept"].astype(int))


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    made = tmp_path_factory.mktemp("visits")
    _visits().to_csv(made / "visits.csv", index=False)
    (made / "visits.toml").write_text(BRIEF, "utf-8")
    return made


def test_figures_are_written_with_the_unit_and_decimals_that_were_stated(folder: Path) -> None:
    table, frame = ga.read(folder / "visits.toml"), _visits()
    by = ga.total(table, ["sum(fee) / count(*)"], by=["ward"])
    told = {row[0]: row[1] for row in by.tables()[0].rows}
    for ward, mean in frame.groupby("ward")["fee"].mean().items():
        assert told[str(ward)] == f"€{mean:,.2f}"
    rate = ga.total(table, ["sum(kept) / count(*)"], by=["wing"]).tables()[0].rows
    assert [row[1] for row in rate] == [f"{100 * mean:.2f}%" for mean in frame.groupby("wing")["kept"].mean()]
    whole = str(ga.total(table, ["sum(fee)"], period="2024-02").summary())
    assert f"{frame.loc[frame['day'].dt.strftime('%Y-%m') == '2024-02', 'fee'].sum():,.0f}" in whole


def test_contributions_have_the_decimals_of_their_measure_and_add_up(folder: Path) -> None:
    change = ga.explain_change(ga.read(folder / "visits.toml"), "sum(fee)", period="2025-06", baseline="previous")
    table = next(one for one in change.tables() if len(one.rows) > 2)
    for row in table.rows:
        for text in row[1:]:
            assert "." not in text.replace("%", "") or "%" in text or "M" in text, row


def test_labels_stand_in_the_order_that_was_stated(folder: Path) -> None:
    table = ga.read(folder / "visits.toml")
    by = ga.total(table, ["sum(fee)"], by=["severity"])
    assert [row[0] for row in by.tables()[0].rows] == ["mild", "middling", "grave"]
    chart = by.chart()
    assert chart is not None
    assert chart.data.iloc[:, 0].tolist() == ["mild", "middling", "grave"]
    assert ga.compare(table, "fee", "severity").to_frame().iloc[:3, 0].tolist() == ["mild", "middling", "grave"]
    # An order that is asked for goes before it.
    ranked = ga.total(table, ["sum(fee)"], by=["severity"], order="descending")
    sums = _visits().groupby("severity")["fee"].sum().sort_values(ascending=False)
    assert [row[0] for row in ranked.tables()[0].rows] == sums.index.tolist()


def test_a_column_answers_to_its_synonyms(folder: Path) -> None:
    answer = ga.ask(folder / "visits.toml", "fee by care unit")
    assert answer.status == "answered"
    assert sorted(row[0] for row in answer.tables()[0].rows) == sorted(_visits()["ward"].unique())
    done = run("ask", folder / "visits.toml", "fee by floor")
    assert done.returncode == 0, done.stderr
    assert "by ward" in done.stdout
    assert ga.ask(folder / "visits.csv", "fee by care unit").status != "answered"


def test_a_hierarchy_that_rows_break_is_refused(folder: Path, tmp_path: Path) -> None:
    frame = _visits()
    frame.loc[3, "wing"] = "C"
    frame.to_csv(tmp_path / "visits.csv", index=False)
    (tmp_path / "visits.toml").write_text(BRIEF, "utf-8")
    with pytest.raises(ga.RequestError, match=r"hierarchy of ward.*'B2' stands beside several"):
        ga.read(tmp_path / "visits.toml")
    survey = ga.scan(ga.read(folder / "visits.toml"), by=["ward", "wing", "house"]).result.survey
    assert survey.parents["ward"] == "wing"


@pytest.mark.parametrize(
    ("old", "new", "message"),
    [
        ('order = ["mild"', 'order = ["Mild"', r"order of severity.*Mild.*mild"),
        ('order = ["mild"', 'order = ["mild", "mild"', "each label once"),
        ('hierarchy = ["wing"', 'hierarchy = ["wnig"', r"wnig.*hierarchy of ward.*wing"),
        ('hierarchy = ["wing"', 'hierarchy = ["ward"', "another column"),
        ('column = "ward"', 'column = "wrd"', r"\[\[dimension\]\] 1 of the brief.*ward"),
        ("decimals = 2", "decimals = 9", "decimals.*a whole number from 0 to 6"),
    ],
)
def test_what_cannot_be_is_refused_in_a_sentence(folder: Path, old: str, new: str, message: str) -> None:
    path = folder / "wrong.toml"
    path.write_text(BRIEF.replace(old, new, 1), "utf-8")
    with pytest.raises(ga.AlmanacError, match=message):
        ga.read(path)


def test_a_brief_is_read_without_further_options(folder: Path) -> None:
    with pytest.raises(ga.RequestError, match="without further options"):
        ga.read(folder / "visits.toml", rows="visits")


def test_a_question_is_a_section_and_one_that_cannot_be_read_is_refused(folder: Path) -> None:
    path = folder / "asking.toml"
    path.write_text(BRIEF + '\n[[section]]\nask = "total fee by wing in 2024"\n', "utf-8")
    model = ga.report(ga.read_brief(path)).model
    frame = _visits()
    top = frame[frame["day"] < "2025"].groupby("wing")["fee"].sum().idxmax()
    assert f"highest for {top}" in str(model.sections[-1].claim)
    path.write_text(BRIEF + '\n[[section]]\nask = "wombats by moonlight"\n', "utf-8")
    with pytest.raises(ga.RequestError, match="can be read for sure"):
        ga.report(ga.read_brief(path))
