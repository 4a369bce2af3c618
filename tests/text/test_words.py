"""Numbers, names and sentences: right, short, and the same figures as in the files."""

from __future__ import annotations

import re

import numpy as np
import pandas as pd
import pytest
from hypothesis import given
from hypothesis import strategies as st

import golden_almanac as ga
from golden_almanac.tables.calendar import parse_period
from golden_almanac.text import dates, names, numbers
from golden_almanac.text.summary import MOST_WORDS


@pytest.mark.parametrize(
    ("value", "text"),
    [
        (0, "0"),
        (7, "7"),
        (12.345, "12.3"),
        (999.6, "1,000"),
        (1234, "1,230"),
        (12345, "12,300"),
        (999_499, "999,000"),
        (999_950, "1.00 million"),
        (1_236_000, "1.24 million"),
        (15_000_000, "15.0 million"),
        (2.5e9, "2.50 billion"),
        (-1_500_000, "−1.50 million"),
        (0.0456, "0.0456"),
        (0.1, "0.100"),
        (100, "100"),
        (3.14159, "3.14"),
        (1e13, "10.0 trillion"),
    ],
)
def test_three_significant_figures(value: float, text: str) -> None:
    assert numbers.plain(value) == text


@given(st.floats(-1e15, 1e15).filter(lambda x: x == 0 or abs(x) > 1e-5))
def test_rounding_is_never_more_than_half_a_percent(value: float) -> None:
    text = numbers.plain(value).replace("−", "-").replace(",", "")
    scale = {"million": 1e6, "billion": 1e9, "trillion": 1e12}
    number, _, word = text.partition(" ")
    assert float(number) * scale.get(word, 1) == pytest.approx(value, rel=0.006, abs=1e-6)


@pytest.mark.parametrize(
    ("value", "text"),
    [
        (168.7, "169%"),
        (36, "36%"),
        (9.94, "9.9%"),
        (9.96, "10%"),
        (0.43, "0.4%"),
        (-12.2, "12%"),
        (0.01, "less than 0.1%"),
        (99.2, "99.2%"),
        (0, "0.0%"),
    ],
)
def test_percent(value: float, text: str) -> None:
    assert numbers.percent(value) == text


def test_points_are_not_percent() -> None:
    assert numbers.points(4.62) == "4.6 points"
    assert numbers.points(-1.0) == "1.0 points"  # with its decimals, as the CLDR counts
    assert numbers.points(0.042) == "0.04 points"
    assert numbers.share(0.912) == "91.2%"
    assert numbers.share(1) == "100%"


def test_signs() -> None:
    assert numbers.signed(-3, "3%") == "−3%"
    assert numbers.signed(3, "3%") == "+3%"
    assert numbers.signed(0, "0%") == "0%"


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("2025-09", "September 2025"),
        ("2025-Q3", "the third quarter of 2025"),
        ("2025", "2025"),
        ("2025-08-14", "14 August 2025"),
        ("2025-10-01/2025-10-19", "1 to 19 October 2025"),
        ("2025-01/2025-09", "January to September 2025"),
        ("2024-11/2025-02", "November 2024 to February 2025"),
        ("2025-W07", "the week of 10 February 2025"),
    ],
)
def test_periods_are_said(text: str, said: str) -> None:
    assert dates.period(parse_period(text)) == said


def test_plurals_and_lists() -> None:
    assert [
        names.plural(word) for word in ("route", "city", "fare_class", "branch", "day", "sales", "sales_person")
    ] == ["routes", "cities", "fare classes", "branches", "days", "sales", "sales people"]
    assert names.listed(["a", "b", "c"]) == "a, b and c"


def test_every_finding_has_a_headline_with_a_number_and_a_full_stop(demo_scan: ga.Scan) -> None:
    for one in (*demo_scan.findings, *demo_scan.folded):
        assert re.search(r"\d", one.headline), one.headline
        assert one.headline.endswith(".")
        assert one.headline[0].isupper()
        assert len(one.headline.split()) <= 40
        assert one.detail.endswith(".")
        for text in (one.headline, one.detail):
            assert "  " not in text
            assert "nan" not in text.lower().split()
            assert "None" not in text
            assert ".." not in text


def test_no_sentence_claims_a_cause(demo_scan: ga.Scan) -> None:
    for one in (*demo_scan.findings, *demo_scan.folded):
        assert not re.search(r"\b(caus|because|due to|led to|thanks to)", one.headline + one.detail, re.IGNORECASE)


def test_numbers_in_headlines_are_the_figures(demo_scan: ga.Scan) -> None:
    for one in demo_scan.findings:
        f = one.figures
        if one.kind == "trend" and f["change_pct"] is not None and one.measure and one.measure.additive:
            assert numbers.percent(f["change_pct"]) in one.headline
        if one.kind == "shift" and f["change_pct"] is not None and one.measure and one.measure.additive:
            assert numbers.signed(f["change_pct"], numbers.percent(f["change_pct"])) in one.headline
        if one.kind == "difference":
            assert numbers.amount(f["value"], one.measure) in one.headline
            assert numbers.amount(f["rest"], one.measure) in one.headline
        if one.kind == "ranking":
            assert numbers.percent(f["lead_pct"]) in one.headline


def test_the_summary_of_the_demo(demo_scan: ga.Scan) -> None:
    summary = demo_scan.summary()
    text = f"{summary.headline} {summary.text}"
    assert len(text.split()) <= MOST_WORDS
    # A month within its usual movement is no headline: what matters more comes first, then what changed, by how much,
    # against what was usual, where, and the warning.
    assert summary.headline == demo_scan.findings[0].headline
    assert summary.bullets[0].startswith("Revenue was 1.37 million in September 2025")
    assert "usual movement" in text
    assert "Agents (channel; −105,000)" in text
    assert "October 2025 is unfinished" in text
    assert all(bullet[8:] in summary.text for bullet in summary.bullets)
    assert len(set(summary.bullets)) == len(summary.bullets)


def test_the_latest_figure_of_the_summary_adds_up_by_hand(demo_scan: ga.Scan, sailings: object) -> None:
    frame = pd.read_csv(str(sailings))
    month = frame["date"].str[:7]
    now, then = (frame.loc[month == m, "revenue"].sum() for m in ("2025-09", "2024-09"))
    assert demo_scan.summary().bullets[0] == (
        f"Revenue was {now / 1e6:.2f} million in September 2025, "
        f"{numbers.percent(100 * (now / then - 1))} above September 2024."
    )


def test_a_scan_of_noise_says_so() -> None:
    rng = np.random.default_rng(0)
    summary = ga.scan(pd.DataFrame({"team": rng.choice(list("abc"), 300), "score": rng.normal(50, 9, 300)})).summary()
    assert summary.headline.startswith("Nothing stands out beyond chance")
    assert "No column holds dates" in summary.text


def test_what_a_claim_is_about_does_not_depend_on_its_words(demo_scan: ga.Scan) -> None:
    german = demo_scan.in_language("de")
    assert [f.id for f in german.findings] == [f.id for f in demo_scan.findings]
    assert german.findings[0].headline != demo_scan.findings[0].headline


def test_tiny_numbers_have_a_power_of_ten() -> None:
    assert numbers.plain(-9.04e-300) == "−9.04 × 10^−300"
    assert numbers.plain(0.0000456) == "0.000046"
