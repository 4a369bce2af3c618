"""What the core says of a table, in every language: repairs, questions, reasons, assumptions, in full."""

from __future__ import annotations

import csv
import pickle
import re
from pathlib import Path

import pandas as pd
import pytest
from hypothesis import given
from hypothesis import strategies as st

import golden_almanac as ga
from golden_almanac.api.join import links_lines
from golden_almanac.support.phrasing import Commas, Either, Glued, figure, named, phrased, phrased_count, together
from golden_almanac.text.core_sentences import retold
from golden_almanac.text.languages import languages, speaking, voice_of

from ..tables.diseases import clean, dressed

OTHERS = [one for one in languages() if one != "en"]
NAMES = st.text(st.characters(codec="utf-8", exclude_categories=("Cs", "Cc")), min_size=1, max_size=12)


def digits(text: str) -> list[str]:
    """The numbers of a sentence, whatever marks stand in them."""
    return sorted(re.sub(r"\D", "", one) for one in re.findall(r"\d[\d.,\u00a0’]*", text) if re.sub(r"\D", "", one))


def test_english_is_the_sentence_itself() -> None:
    made = phrased_count(1, "{n} cell of {column}", "{n} cells of {column}", column="'a{b}'")
    assert made == "1 cell of 'a{b}'"
    assert retold(made) == made
    assert phrased_count(1200, "{n} cell", "{n} cells") == "1,200 cells"
    assert together("", "One.", "Two.") == "One. Two."
    assert together("One.") == "One."


def test_lists_numbers_and_names() -> None:
    told = phrased(
        "{a}; {b}; {c}; {d}; {e}; {f}",
        a=["x", "y", "z"],
        b=Either(("x", "y")),
        c=Commas(("x", "y")),
        d=Glued(("x", " + ", "y")),
        e=figure(1234.5, 2),
        f=named("fuel_cost", "fuel cost"),
    )
    assert told == "x, y and z; x or y; x, y; x + y; 1,234.50; fuel cost"
    with speaking(voice_of("de", {"fuel_cost": "Treibstoffkosten, p"})):
        # A phrase that no catalogue has stays English; what fills it does not.
        assert retold(told) == "x, y und z; x oder y; x, y; x + y; 1.234,50; Treibstoffkosten"


@pytest.mark.parametrize(
    ("language", "one", "many"),
    [
        ("de", "1 Zeile ohne Gegenstück", "2.000 Zeilen ohne Gegenstück"),
        ("es", "1 fila sin correspondencia", "2000 filas sin correspondencia"),
        ("fr", "1 ligne sans correspondance", "2\u00a0000 lignes sans correspondance"),
    ],
)
def test_plurals_are_those_of_the_language(language: str, one: str, many: str) -> None:
    with speaking(voice_of(language)):
        forms = "{n} row without a match", "{n} rows without a match"
        assert retold(phrased_count(1, *forms)) == one
        assert retold(phrased_count(2000, *forms)) == many


def test_a_sentence_survives_a_copy() -> None:
    made = pickle.loads(pickle.dumps(phrased("{column} was read as {what}.", column="'a'", what=phrased("numbers"))))
    with speaking(voice_of("de")):
        assert retold(made) == "'a' wurde gelesen als Zahlen."
        assert retold("a string of somebody's own") == "a string of somebody's own"


@given(NAMES)
def test_names_are_never_phrases(name: str) -> None:
    made = phrased("{column} is empty and takes no part.", column=repr(name))
    assert made == f"{name!r} is empty and takes no part."
    for language in OTHERS:
        with speaking(voice_of(language)):
            assert repr(name) in retold(made)


@pytest.mark.parametrize("seed", range(6))
def test_every_repair_is_said_in_full_in_every_language(tmp_path: Path, seed: int) -> None:
    path = tmp_path / "dressed.csv"
    with path.open("w", newline="", encoding="utf-8") as file:
        csv.writer(file).writerows(dressed(clean(seed, 60), seed).cells)
    found = ga.check(path)
    for language in OTHERS:
        told = ga.check(path, locale=language)
        assert told.headline != found.headline
        for one, other in zip(found.to_dict()["readiness"], told.to_dict()["readiness"], strict=True):
            assert other["message"] != one["message"]
            assert digits(other["message"]) == digits(one["message"]), (one["message"], other["message"])
            assert [row["row"] for row in other["examples"]] == [row["row"] for row in one["examples"]]
            if one["question"] is not None:
                assert other["question"]["text"] != one["question"]["text"]
                # What answers it is a key, the same for all.
                assert other["question"]["choices"] == one["question"]["choices"]


#: Words that stand in English sentences only.
ENGLISH = re.compile(r"\b(the|and|rows?|were|with|from|which|labels?|columns?|cells?)\b")


@pytest.mark.parametrize("language", OTHERS)
def test_the_workbook_of_the_demo_has_no_english_in_it(sailings: Path, language: str) -> None:
    found = ga.check(sailings.parent / "harbour-office.xlsx", locale=language)
    lines = [str(line) for line in found.lines()]
    # Options and keys are typed as they are.
    told = [re.sub(r'--\w+( ".*?")?|\(\w* "[^"]*"\)|"[^"]*"|\'[^\']*\'', "", line) for line in lines]
    assert not [line for line in told if ENGLISH.search(line)]
    assert len(lines) > 20


@pytest.mark.parametrize("language", OTHERS)
def test_reasons_and_assumptions_are_said(sailings: Path, language: str) -> None:
    table = ga.read(sailings)
    compared = ga.compare(table, "delay_min", "vessel", locale=language)
    told = [*compared.assumptions(), *compared.caveats(), compared.to_dict()["test"]["why"], str(compared.summary())]
    assert not [text for text in told if ENGLISH.search(text)]
    found = ga.find_drivers(table, "delay_min", ["route", "region", "capacity", "on_time"], locale=language)
    for one in found.tables():
        assert not [cell for row in one.rows for cell in row if ENGLISH.search(cell)], one
    assert found.to_dict()["left_out"]


def test_a_join_and_its_links_are_said(tmp_path: Path) -> None:
    pd.DataFrame({"vessel": ["Tern", "Petrel", "Lark"], "built": [1999, 2004, 2011]}).to_csv(
        tmp_path / "vessels.csv", index=False
    )
    left = pd.DataFrame({"vessel": ["Tern", "Petrel", "Auk"] * 8, "fee": range(24)})
    left.to_csv(tmp_path / "fees.csv", index=False)
    joined = ga.join(ga.read(tmp_path / "fees.csv"), ga.read(tmp_path / "vessels.csv"), "vessel")
    message = next(one.message for one in joined.problems if one.check == "join")
    assert "8 rows without a match" in message
    with ga.speaking("de"):
        assert "8 Zeilen ohne Gegenstück; 1 Zeile von vessels.csv nie verwendet" in retold(message)
        tables = ga.read_all([str(tmp_path / "fees.csv"), str(tmp_path / "vessels.csv")])
        lines = "\n".join(map(str, links_lines(tables)))
    assert "2 Tabellen" in lines
    assert not ENGLISH.search(lines.replace("fees.csv", "").replace("vessels.csv", ""))
