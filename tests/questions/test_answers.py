"""Answers by Python, by the command line and in a conversation: the figures, the JSON, the refusals."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga
from golden_almanac.asking import read
from golden_almanac.asking.next_questions import after, first
from golden_almanac.asking.reader import line_of
from golden_almanac.asking.spans import Clock, iso
from golden_almanac.asking.words import tokens

from ..commands import run
from . import tables


@pytest.mark.parametrize(
    ("said", "meant"),
    [
        ("in Q3 last year", "2024-Q3"),
        ("since May", "2025-05-01/2025-10-19"),
        ("in the last 90 days", "2025-07-22/2025-10-19"),
        ("year to date", "2025-01-01/2025-10-19"),
        ("between February and March 2013", "2013-02-01/2013-03-31"),
        ("2023-06-01 to 2023-06-30", "2023-06"),
        ("14th of August, 2025", "2025-08-14"),
        ("in the winter of 2024", "2024-12-01/2025-02-28"),
        ("last three months", "2025-Q3"),
        ("before March 2024", "2022-09-01/2024-02-29"),
        ("in the second half of 2024", "2024-07-01/2024-12-31"),
        ("03/04/2024", "2024-04-03"),
        ("for the year 2024", "2024"),
    ],
)
def test_spans_are_those_of_the_calendar(said: str, meant: str) -> None:
    line = line_of(tables.table("sailings"))
    assert line is not None
    (span,) = Clock(tokens(said), line).spans()
    assert span.period is not None
    assert iso(span.period) == meant


def test_an_answer_has_figures_sql_and_what_to_ask_next() -> None:
    table = tables.table("sailings")
    answer = ga.ask(table, "which route carried most passengers in 2025?")
    expected = table.sql(
        "SELECT route, sum(passengers) AS n FROM source WHERE year(date) = 2025 GROUP BY 1 ORDER BY 2 DESC LIMIT 1"
    )
    assert answer.status == "answered"
    assert answer.to_frame().iloc[0, 0] == expected["route"][0]
    assert answer.sql is not None
    assert table.sql(answer.sql).iloc[0, 1] == expected["n"][0]
    assert answer.check()
    assert answer.request is not None
    assert answer.request.as_call().startswith("ga.total(source, measures=('sum(passengers)',), by=('route',)")
    assert len(answer.next) == 3
    for question in answer.next:
        assert read(question, table).asked is not None
    told = answer.to_dict()
    assert told["format"] == "golden-almanac/answer/1"
    assert [one["words"] for one in told["trace"]] == ["which", "route", "carried", "most", "passengers", "in", "2025"]


def test_the_year_before_stands_beside_a_figure_of_a_span() -> None:
    table = tables.table("sailings")
    answer = ga.ask(table, "revenue in September 2025")
    now, then = (
        float(table.sql(f"SELECT sum(revenue) AS v FROM source WHERE date_trunc('month', date) = DATE '{day}'")["v"][0])
        for day in ("2025-09-01", "2024-09-01")
    )
    assert f"{100 * (now / then - 1):+.0f}%" in answer.sentence
    assert answer.to_dict()["answer"] == {"value": pytest.approx(now), "unit": None}


@pytest.mark.parametrize(
    "question",
    ["", "   ", "?!", "word " * 10_000, "\x1b[2Jrevenue\x00", "'; DROP TABLE source; --", "$(reboot) revenue", "12 13"],
)
def test_what_is_no_question_is_refused(question: str) -> None:
    answer = ga.ask(tables.table("sailings"), question)
    assert answer.status == "refused"
    assert answer.found is None
    assert answer.to_frame().empty
    assert not answer.check()


def test_private_columns_are_neither_answered_nor_hinted_at() -> None:
    table = ga.read(tables.demo() / "sailings.csv", private=["delay_min"])
    for question in (
        "average delay by vessel",
        "delay_min by route",
        "which vessel has the highest delay_min?",
        "dely",
    ):
        answer = ga.ask(table, question)
        assert answer.status == "refused"
        said = json.dumps({k: v for k, v in answer.to_dict().items() if k not in ("request", "trace", "unread")})
        assert "delay_min" not in said.replace(question, "")
    assert not any("delay" in question for question in first(table))


def test_a_table_without_numbers_can_be_counted() -> None:
    table = ga.read(pd.DataFrame({"colour": ["red", "blue", "red"] * 9, "size": ["S", "M", "L"] * 9}), name="shirts")
    assert ga.ask(table, "how many shirts by colour?").to_frame().iloc[:, -1].tolist() == [9, 18]
    assert ga.ask(table, "average price").status == "refused"


def test_a_name_that_could_be_several_is_asked_about() -> None:
    answer = ga.ask(tables.table("harbours"), "timber by harbour")
    assert answer.status == "ambiguous"
    assert answer.alternatives
    for question in answer.alternatives:
        assert read(question, tables.table("harbours")).asked is not None


def test_no_figure_is_assumed_where_it_could_be_another() -> None:
    answer = ga.ask(tables.table("moorings"), "which vessel is best?")
    assert answer.status != "answered"
    taken = ga.ask(tables.table("sailings"), "which route grew fastest in 2024?")
    assert any("revenue" in note for note in taken.caveats())


def test_small_groups_are_not_told_through_questions() -> None:
    rng = np.random.default_rng(3)
    frame = pd.DataFrame({"team": ["A"] * 60 + ["B"] * 40 + ["C"] * 2, "pay": rng.normal(50, 5, 102).round(2)})
    table = ga.read(frame, minimum_group=5, name="staff")
    answer = ga.ask(table, "average pay by team")
    assert "C" not in answer.to_frame().iloc[:, 0].tolist()
    assert ga.ask(table, "list the rows with pay above 40").status == "refused"
    assert ga.ask(table, "share of pay by team").status == "refused"


def test_a_conversation_keeps_describes_and_goes_back() -> None:
    talk = ga.conversation(tables.table("sailings"))
    talk.ask("revenue by route in 2024")
    kept = talk.ask("keep this")
    assert talk.kept == [kept]
    offered = talk.ask("margin is revenue minus fuel cost, divided by revenue")
    assert offered.status == "refused"
    assert talk.ask("margin by route").status == "refused"
    definition = talk.accept()
    row = talk.table.to_frame().iloc[0]
    assert definition.gives == pytest.approx((row["revenue"] - row["fuel_cost"]) / row["revenue"])
    margin = talk.ask("margin by route").to_frame()
    own = talk.table.sql(
        "SELECT route, (sum(revenue) - sum(fuel_cost)) / sum(revenue) AS m FROM source GROUP BY 1 ORDER BY 1"
    )
    assert margin.iloc[:, 1].tolist() == pytest.approx(own["m"].tolist())
    talk.undo()
    assert talk.last is not None
    assert talk.last.as_read == "revenue by route in 2024"
    assert talk.report().ids == ("total-1", "figures-1")


def test_what_was_kept_is_published_again_as_a_brief(tmp_path: Path) -> None:
    source = tables.demo() / "sailings.csv"
    talk = ga.conversation(source)
    for question in ("revenue by route in 2024", "revenue by month {{ x }} in 2025", "why did revenue change in 2024?"):
        talk.ask(question)
        if talk.answers[-1].found is not None:
            talk.keep()
    talk.ask("margin is revenue minus fuel cost, divided by revenue", yes=True)
    brief = tmp_path / "kept.toml"
    brief.write_text(talk.brief(str(source)), encoding="utf-8")
    told = ga.read_brief(brief)
    assert [section.get("draw") or section.get("change") for section in told.get("section")] == ["bars", "sum(revenue)"]
    assert any("margin" in measure for measure in told.get("measures"))
    made = ga.report(told)
    assert "revenue by route in 2024" in [section.claim for section in made.model.sections]


def test_looks_are_changed_by_words() -> None:
    talk = ga.conversation(tables.table("sailings"))
    talk.ask("revenue by month and route in 2024")
    thousands = talk.ask("in thousands of euro")
    assert thousands.to_frame().iloc[:, -1].max() < 1_000
    green = talk.ask("make Outer Bar green")
    assert green.asked is not None
    assert green.asked.colours == (("Outer Bar", "#3B7A57"),)
    assert "#3b7a57" in green.chart().svg().lower()


def test_first_and_next_questions_run_as_they_stand() -> None:
    for name in ("sailings", "survey", "moorings", "harbours"):
        table = tables.table(name)
        asked = first(table)
        assert len(asked) == 10
        for question in asked:
            reading = read(question, table)
            assert reading.asked is not None, question
            for following in after(reading.asked, table):
                assert read(following, table).asked is not None, following


def test_the_command_answers_and_refuses(tmp_path: Path) -> None:
    source = tables.demo() / "sailings.csv"
    done = run("ask", source, "revenue by port", "--json")
    assert done.returncode == 0
    told = json.loads(done.stdout)
    assert told["status"] == "answered"
    assert len(told["answer"]["rows"]) == 3
    refused = run("ask", source, "profit by port")
    assert refused.returncode == 2
    assert refused.stdout == ""
    assert "profit" in refused.stderr
    in_json = run("ask", source, "profit by port", "--json")
    assert in_json.returncode == 2
    assert json.loads(in_json.stdout)["status"] == "refused"
    page = tmp_path / "answer.html"
    assert run("ask", source, "revenue by month", "-o", page, "--pages", "region").returncode == 0
    assert "Outer Isles" in page.read_text(encoding="utf-8")
    cut = json.loads(run("ask", source, "sailings per day in 2024", "--json", "-n", "5").stdout)
    assert len(cut["answer"]["rows"]) == 5
    assert cut["answer"]["all_rows"] == 366


def test_the_command_that_is_shown_gives_the_same(tmp_path: Path) -> None:
    import shlex

    source = tables.demo() / "sailings.csv"
    for question in (
        "top 3 routes by revenue in 2024",
        "average delay on Fridays by port",
        "growth of revenue in 2024",
    ):
        answer = ga.ask(source, question)
        assert answer.request is not None
        words = shlex.split(answer.request.as_command(str(source)))[1:]
        told = json.loads(run(*words, "--json").stdout)
        assert told["rows"] == json.loads(json.dumps(answer.found.to_dict()["rows"]))  # type: ignore[union-attr]


def test_the_workbook_is_asked_with_its_sheets_joined() -> None:
    answer = ga.ask(tables.demo() / "harbour-office.xlsx", "which vessel built before 1995 paid most in fees?")
    assert answer.status == "answered"
    assert any("Vessels joined to Moorings" in text for text in answer.caveats())


def test_the_other_reading_is_named_and_one_key_away() -> None:
    table = tables.table("sailings")
    answer = ga.ask(table, "which vessel has the highest revenue?")
    assert answer.to_frame().columns[-1] == "sum(revenue)"
    assert answer.alternatives[0] == "which vessel has the highest average revenue"
    other = ga.ask(table, answer.alternatives[0])
    assert other.to_frame().columns[-1] == "avg(revenue)"
    assert other.alternatives == ()


def test_the_command_of_a_joined_workbook_names_what_is_joined() -> None:
    done = run("ask", tables.demo() / "harbour-office.xlsx", "which vessel built before 1995 paid most in fees?")
    assert "--join Vessels" in " ".join(done.stdout.split())
    assert "built < 1995" in done.stdout


def test_answers_are_told_in_other_languages() -> None:
    table = tables.table("sailings")
    english = ga.ask(table, "revenue by route in 2024")
    german = ga.ask(table, "revenue by route in 2024", locale="de")
    assert german.to_frame().equals(english.to_frame())
    assert "Umsatz" in german.sentence
    assert ga.ask(table, "Umsatz nach Route im Jahr 2024").reading.code == "language"


def test_what_has_no_sql_is_not_said_to_be_checked() -> None:
    table = tables.table("survey")
    assert ga.ask(table, "does salary differ between genders?").check() is None
    assert ga.ask(table, "average salary by gender").check() is True


def test_a_single_bar_is_not_drawn() -> None:
    answer = ga.ask(tables.table("sailings"), "which route carried most passengers in 2025?")
    with pytest.raises(LookupError):
        answer.chart()
    assert answer.report().ids == ("total",)
    assert len(ga.ask(tables.table("sailings"), "top 3 routes by passengers").report().ids) == 2


def test_a_report_of_several_answers_says_each() -> None:
    talk = ga.conversation(tables.table("sailings"))
    for question in ("revenue by route in 2024", "passengers by port in 2024"):
        talk.ask(question)
        talk.keep()
    summary = talk.report().model.summary
    assert "Outer Bar" in summary.headline
    assert "Passengers" in summary.text


@pytest.mark.parametrize(
    ("file", "question", "call", "said"),
    [
        ("sailings.csv", "key figures of August 2025", "key_figures", "August 2025"),
        ("sailings.csv", "Is anything worth a look?", "key_figures", "figures of September 2025"),
        ("trips.csv", "who stays?", "cohorts", "May 2024 left faster"),
        ("ledger.csv", "What is odd in the books?", "review_ledger", "6100 Insurance was"),
        ("ledger.csv", "review the accounts in Skerry Haven", "review_ledger", "5000 Fuel"),
    ],
)
def test_standing_jobs_can_be_asked_for(sailings: Path, file: str, question: str, call: str, said: str) -> None:
    answer = ga.ask(sailings.parent / file, question)
    assert answer.status == "answered", answer.sentence
    assert answer.reading.call is not None
    assert answer.reading.call.name == call
    assert said in str(answer.summary())
    again = ga.ask(sailings.parent / file, answer.as_read)
    assert again.reading.call == answer.reading.call


def test_a_standing_job_that_the_table_has_no_column_for_is_refused(sailings: Path) -> None:
    for question in ("who stays?", "review the ledger"):
        answer = ga.ask(sailings, question)
        assert answer.status == "refused"
        assert "column" in answer.sentence
