"""A language is data alone: a small Polish catalogue, with four plurals and a case that no other language here has."""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal
from pathlib import Path

import pytest

import golden_almanac as ga
from golden_almanac.text.languages import catalogue as catalogues
from golden_almanac.text.languages import count, languages, say, speaking, voice_of
from golden_almanac.text.languages.inflection import noun, plain


@pytest.fixture(autouse=True)
def polish(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """The catalogue of the tests in place of those that are published."""
    monkeypatch.setattr(catalogues, "FOLDER", Path(__file__).parent)
    catalogues.catalogue.cache_clear()
    with speaking(voice_of("pl")):
        yield
    catalogues.catalogue.cache_clear()


def test_a_file_is_all_that_makes_a_language() -> None:
    assert languages() == ("en", "pl")
    with pytest.raises(ga.RequestError, match="one of en, pl"):
        voice_of("de")


@pytest.mark.parametrize(
    ("n", "told"),
    [(1, "1 wiersz"), (2, "2 wiersze"), (4, "4 wiersze"), (5, "5 wierszy"), (12, "12 wierszy"), (22, "22 wiersze"),
     (0, "0 wierszy"), (21, "21 wierszy"), (Decimal("1.5"), "1.5 wiersza")],
)  # fmt: skip
def test_plurals_are_those_of_the_language(n: int | Decimal, told: str) -> None:
    assert count(n, "{n} row", "{n} rows", n=n) == told


def test_nouns_stand_in_the_case_that_a_phrase_asks_for() -> None:
    who = noun("revenue")
    assert str(who) == "przychody"
    assert say("The average of {who}", who=who) == "Średnia przychodów"
    assert say("In {who} nothing changed", who=who) == "W przychodach nic się nie zmieniło"
    assert say("{who} rose {size} {when}", who=who, size="5%", when="w maju") == "przychody wzrosły o 5% w maju"
    assert who.form("other") == "przychód"


def test_what_no_catalogue_knows_stands_in_the_quotation_marks_of_the_language() -> None:
    assert str(noun("dwell time")) == "„dwell time”"
    # A label stands as it is, with no word of another language before it.
    assert plain("Outer Bar").form("of") == "Outer Bar"
    assert say("What to do next") == "Co dalej"
