"""Findings in four languages: catalogues complete, the same numbers in each, plural and gender by rule."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga
from golden_almanac.text import dates, names, numbers, page_labels
from golden_almanac.text.languages import Noun, count, languages, say, speaking, voice_of
from golden_almanac.text.languages.catalogue import catalogue
from golden_almanac.text.languages.inflection import noun, written

from .phrases import CATALOGUES, phrases, referenced

OTHERS = [one for one in languages() if one != "en"]
#: Places that another language may leave out: words that only grammar asks for.
MAY_GO = {"parts", "part", "grain", "who", "it", "cycle", "columns", "name", "measure", "label", "days"}


@pytest.mark.parametrize("path", CATALOGUES, ids=lambda path: path.stem)
def test_translators_see_which_files_say_a_phrase(path: Path) -> None:
    """Kept by `python -m tests.text.phrases --references`."""
    assert referenced(path) == path.read_bytes()


@pytest.mark.parametrize("language", OTHERS)
def test_catalogues_say_every_phrase_and_no_other(language: str) -> None:
    known = {(context, phrase) for context, phrase, _ in phrases()}
    there = {key for key in catalogue(language) if key[0] not in ("noun", "grammar")}
    assert not known - there, "missing"
    assert not there - known, "no longer said"
    assert all(all(text) if isinstance(text, tuple) else text for text in catalogue(language).values())


@pytest.mark.parametrize("language", OTHERS)
def test_catalogues_fill_the_same_places(language: str) -> None:
    def places(text: str) -> set[str]:
        return set(re.findall(r"\{(\w+)", text))

    for context, phrase, many in phrases():
        said = catalogue(language)[(context, phrase)]
        for text in said if isinstance(said, tuple) else (said,):
            wanted = places(phrase) | places(many or "")
            assert places(text) <= wanted | {"gender"}, (phrase, text)
            if many is None:
                assert wanted - places(text) <= MAY_GO, (phrase, text)


@pytest.mark.parametrize("language", OTHERS)
def test_nouns_are_the_same_in_all_languages(language: str) -> None:
    nouns = {key[1] for key in catalogue(language) if key[0] == "noun"}
    assert nouns == {key[1] for key in catalogue("de") if key[0] == "noun"}
    for text in (str(catalogue(language)[("noun", word)]) for word in nouns):
        made = written(text, language)
        assert all((made, made.form("the"), made.form("of"), made.form("other"))), text


def _numbers(text: str) -> list[str]:
    """The digits of every number, whatever marks stand between them; years and days of months are numbers too."""
    text = re.sub(r"(?<=\d)[\u00a0.,](?=\d{3}(?!\d))", "", text.replace("\u202f", "\u00a0"))
    # "first quarter", "1. Quartal" and "T1" count alike; 95% stands in names of ranges.
    text = re.sub(r"95-?[\u00a0-]?%", "", text)
    return sorted(re.findall(r"\d+(?:[.,]\d+)?", text.replace(",", ".")))


@pytest.mark.parametrize("language", OTHERS)
def test_every_finding_has_the_same_numbers_in_every_language(demo_scan: ga.Scan, language: str) -> None:
    told = demo_scan.in_language(language)
    for one, other in zip(demo_scan.findings, told.findings, strict=True):
        assert _numbers(one.headline) == _numbers(other.headline), (one.headline, other.headline)
        assert one.headline != other.headline
        assert one.id == other.id


@pytest.mark.parametrize("language", OTHERS)
@pytest.mark.parametrize("length", ["short", "standard", "long"])
def test_the_demo_in_three_lengths_and_four_languages(demo_scan: ga.Scan, language: str, length: str) -> None:
    summary = demo_scan.in_language(language).summary(length)
    text = str(summary)
    assert summary.words <= {"short": 60, "standard": 150, "long": 400}[length]
    opening = {
        "de": "Der Umsatz stieg von September 2022 bis September 2025 um 24",
        "es": "Los ingresos subieron un 24",
        "fr": "Le chiffre d’affaires a augmenté de 24",
    }
    assert text.startswith(opening[language])
    assert re.search(r"1,37\s(Mio|mill)", text)
    # No English is left in what is said; labels of the data stay as they are.
    assert not re.search(r"\b(the|rose|fell|against|rows|since|average|above|were|and)\b", text)
    assert "{" not in text


def test_english_is_what_is_written_in_the_code(demo_scan: ga.Scan) -> None:
    assert str(demo_scan.in_language("en").summary()) == str(demo_scan.summary())
    assert demo_scan.in_language("de").in_language("en").findings[0].headline == demo_scan.findings[0].headline


@pytest.mark.parametrize(
    ("locale", "value", "wanted"),
    [
        ("en", 1_370_000, "1.37 million"),
        ("de", 1_370_000, "1,37\u00a0Mio."),
        ("es", 1_370_000, "1,37 millones"),
        ("fr", 1_370_000, "1,37 million"),
        ("fr", 2_400_000, "2,40 millions"),
        ("es", 1_000_000, "1,00 millón"),
        ("de", 4_180, "4.180"),
        ("es", 4_180, "4180"),
        ("fr", 4_180, "4\u00a0180"),
        ("de_CH", 4_180.5, "4’180"),
        ("fr_CA", 0.25, "0,250"),
    ],
)  # fmt: skip
def test_numbers_by_locale(locale: str, value: float, wanted: str) -> None:
    with speaking(voice_of(locale)):
        assert numbers.plain(value).replace(" Mio", "\u00a0Mio").replace("'", "’") == wanted


def test_percent_money_and_points_by_locale() -> None:
    table = ga.read(pd.DataFrame({"amount_eur": [1.0, 2.0], "day": pd.date_range("2025-01-01", periods=2)}))
    from golden_almanac.aggregation.measures import parse_measure

    euros = parse_measure("sum(amount_eur)", table)
    shown = {}
    for locale in ("en", "de", "es", "fr"):
        with speaking(voice_of(locale)):
            shown[locale] = (numbers.percent(12.4), numbers.amount(1_370_000, euros), numbers.points(4.6))
    assert shown["en"] == ("12%", "€1.37 million", "4.6 points")
    assert shown["de"] == ("12\u00a0%", "1,37 Mio.\u00a0€", "4,6 Prozentpunkte")
    assert shown["es"] == ("12\u00a0%", "1,37\u00a0M€", "4,6 puntos")
    assert shown["fr"] == ("12\u00a0%", "1,37\u00a0M€", "4,6 points")


def test_plural_by_the_rule_of_the_language() -> None:
    def said(locale: str, number: float) -> str:
        with speaking(voice_of(locale)):
            return count(number, "{size} point", "{size} points", size=number)

    # CLDR: in French what is below two is one; elsewhere only one is.
    assert [said("fr", n) for n in (0.5, 1, 1.5, 2)] == ["0.5 point", "1 point", "1.5 point", "2 points"]
    assert [said("de", n) for n in (0.5, 1, 1.5)] == ["0.5 Prozentpunkte", "1 Prozentpunkt", "1.5 Prozentpunkte"]
    assert [said("es", n) for n in (1, 1.5)] == ["1 punto", "1.5 puntos"]
    assert [said("en", n) for n in (1, 1.5)] == ["1 point", "1.5 points"]


def test_gender_and_number_agree() -> None:
    with speaking(voice_of("fr")):
        phrase = say("{who} rose from {start} to {end} {when}", who=noun("delay"), start="1", end="2", when="en 2025")
        assert phrase == "le retard est passé de 1 à 2 en 2025"
        phrase = say(
            "{who} rose from {start} to {end} {when}", who=noun("capacity"), start="1", end="2", when="en 2025"
        )
        assert phrase == "la capacité est passée de 1 à 2 en 2025"
        phrase = say("{who} rose from {start} to {end} {when}", who=noun("sales"), start="1", end="2", when="en 2025")
        assert phrase == "les ventes sont passées de 1 à 2 en 2025"
        assert noun("orders").form("of") == "des commandes"
        assert say("{noun} of {label}", noun="les ventes", label="Outer Bar") == "les ventes d’Outer Bar"
        assert say("{noun} of {label}", noun="les ventes", label="Tern Rock") == "les ventes de Tern Rock"
    with speaking(voice_of("de")):
        assert noun("revenue").form("of") == "des Umsatzes"
        assert noun("delay").form("of") == "der Verspätung"
        assert noun("revenue").form("acc") == "den Umsatz"
    with speaking(voice_of("es")):
        assert names.listed(["Web", "Isla"]) == "Web e Isla"
        assert noun("revenue").form("of") == "de los ingresos"


def test_words_that_no_catalogue_knows_are_quoted_and_the_readers_own_come_first() -> None:
    with speaking(voice_of("de")):
        assert names.column("crew_rota") == "„crew rota“"
    with speaking(voice_of("de", {"crew rota": "Dienstplan, m, Dienstpläne", "Outer Bar": "Außenbarre"})):
        assert names.column("crew_rota") == "Dienstplan"
        assert names.label("Outer Bar") == "Außenbarre"
        assert isinstance(names.plural("crew_rota"), Noun)
        assert names.plural("crew_rota").form("the") == "die Dienstpläne"
    with speaking(voice_of("en", {"revenue": "turnover"})):
        assert names.noun("revenue") == "turnover"


def test_dates_by_locale() -> None:
    day = np.datetime64("2025-10-19")
    said = {}
    for locale in ("en", "en_US", "de", "es", "fr"):
        with speaking(voice_of(locale)):
            said[locale] = (dates.day(day), dates.month(day), dates.calendar_name("Saturdays"))
    assert said["en"] == ("19 October 2025", "October 2025", "Saturdays")
    assert said["en_US"][0] == "October 19, 2025"
    assert said["de"] == ("19. Oktober 2025", "Oktober 2025", "Samstag")
    assert said["es"] == ("19 de octubre de 2025", "octubre de 2025", "sábados")
    assert said["fr"] == ("19 octobre 2025", "octobre 2025", "samedi")


def test_an_unknown_locale_is_refused() -> None:
    with pytest.raises(ga.RequestError, match=r"The locale .* de, fr_CA"):
        ga.scan(pd.DataFrame({"a": [1]}), locale="xx")
    with pytest.raises(ga.RequestError, match="locale"), ga.speaking("de_XX_YY"):
        pass


def test_results_remember_their_language() -> None:
    rng = np.random.default_rng(5)
    frame = pd.DataFrame({"vessel": np.repeat(["Tern", "Petrel"], 80), "delay": rng.normal(5, 2, 160)})
    frame.loc[frame["vessel"] == "Petrel", "delay"] += 4
    told = ga.compare(frame, "delay", "vessel", locale="fr")
    plain = ga.compare(frame, "delay", "vessel")
    assert told.summary().headline.startswith("Retard") or told.summary().headline.startswith("Le retard")
    assert plain.summary().headline.startswith("Delay")
    drawn = told.chart()
    assert drawn.alternative.startswith("Boîtes à moustaches")
    assert "médiane" in drawn.subtitle
    page = told.report().html().decode()
    assert '<html lang="fr">' in page
    assert "Pour vérifier" in page or "Comment c’est fait" in page
    assert page_labels.heading("made") == "How it was made"


def test_a_report_in_another_language_has_no_english_furniture(demo_scan: ga.Scan) -> None:
    report = demo_scan.in_language("de").report()
    page = report.html().decode()
    for word in ("How it was made", "To bear in mind", "Figures drawn", "How to check", "Source:", "Period<", "rows<"):
        assert word not in page, word
    text = report.made("md").decode()
    assert "## Zu beachten" in text
    for section in report.model.sections:
        assert section.chart is not None
        assert section.chart.issues() == [], section.id


@pytest.mark.parametrize("language", OTHERS)
def test_labels_are_never_phrases(language: str) -> None:
    # Labels that look like phrases, places, parts of a year or lists stay what they are.
    labels = ["{who}", "All", "new", "Smith, John", "the first quarter", "{x:a|b}"]
    rng = np.random.default_rng(11)
    frame = pd.DataFrame({"who": np.tile(labels, 40), "delay": rng.normal(5, 1, 240)})
    frame.loc[frame["who"] == "{who}", "delay"] += 6
    frame.loc[frame["who"] == "Smith, John", "delay"] -= 3
    plain, told = (
        (ga.find_drivers(frame, "delay", locale=locale), ga.compare(frame, "delay", "who", locale=locale))
        for locale in ("en", language)
    )
    for one, other in zip(plain, told, strict=True):
        for label in labels:
            assert (label in str(one.summary())) == (label in str(other.summary())), label
        other.report().html()
    with speaking(voice_of(language, {"Tern": "Seeschwalbe"})):
        assert names.label("Smith, John") == "Smith, John"
        assert names.label("Tern") == "Seeschwalbe"


def test_no_phrase_is_a_fragment_to_be_glued() -> None:
    """A phrase holds what it is said behind as a place, so that each language decides how they are joined."""
    labels = {"(blank)", "(no value)"}
    glued = {text for _, text, _ in phrases() if text not in labels and re.match(r"[\s,;:.(·]", text)}
    assert glued == set()
