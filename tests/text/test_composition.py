"""Summaries in three lengths, figures that their findings give again, suggestions with their sums, live values."""

from __future__ import annotations

import re

import pytest

import golden_almanac as ga
from golden_almanac.text import LENGTHS, numbers
from golden_almanac.text.suggestions import suggestions

PARTS = re.compile(r"\d+(?:,\d{3})*(?:\.\d+)?")


@pytest.mark.parametrize("length", list(LENGTHS))
def test_lengths_are_kept_and_no_fact_is_told_twice(demo_scan: ga.Scan, length: str) -> None:
    made = demo_scan.summary(length)
    assert made.words <= LENGTHS[length]
    assert len(set(made.bullets)) == len(made.bullets)
    # As a paragraph, what was just named is "it"; what is said of it is the same.
    assert all(bullet[8:] in made.text for bullet in made.bullets)
    assert made.text.count("Revenue ") < sum(bullet.count("Revenue ") for bullet in made.bullets) or length == "short"
    assert made.facts[0].text == made.headline
    assert "October 2025 is unfinished" in made.text
    with pytest.raises(ga.RequestError, match="short, standard, long"):
        demo_scan.summary("tiny")


def test_longer_summaries_hold_the_facts_of_shorter_ones(demo_scan: ga.Scan) -> None:
    short, standard, long = (set(demo_scan.summary(length).bullets) for length in LENGTHS)
    assert len(short) < len(standard) < len(long)
    assert standard <= long


def _renderings(figure: object) -> set[str]:
    """Every way in which a figure may be printed."""
    if isinstance(figure, dict):
        return set().union(*(_renderings(inner) for inner in figure.values()), set())
    if isinstance(figure, list | tuple):
        return set().union(*(_renderings(inner) for inner in figure), {str(len(figure))})
    if isinstance(figure, str):
        return set(PARTS.findall(figure))
    if isinstance(figure, bool) or not isinstance(figure, int | float):
        return set()
    value = abs(float(figure))
    shown = [
        numbers.plain(value),
        numbers.percent(value),
        numbers.percent(100 * value),
        numbers.percent(100 * abs(value - 1)),
    ]
    shown += [
        numbers.share(min(value, 1.0)),
        numbers.points(100 * value),
        numbers.whole(value),
        numbers.plain(value, 2),
    ]
    shown += [numbers.percent(100 * (1 - value)), numbers.fixed(value, 2)]
    return {part for text in shown for part in PARTS.findall(text)}


def test_every_printed_number_of_a_story_is_a_figure_of_its_finding(demo_scan: ga.Scan) -> None:
    known = {one.id: one for one in demo_scan.findings}
    looked = 0
    for fact in demo_scan.summary("long").facts:
        if fact.part not in ("story", "detail"):
            continue
        about = [known[name] for name in fact.about]
        one = about[0]
        dates = {
            part
            for span in (one.period, one.baseline)
            if span
            for part in re.findall(r"\d+", f"{span.start} {span.end}")
        }
        dates |= {part.lstrip("0") for part in dates} | {
            str(int(year) + step) for year in dates if len(year) == 4 for step in (-4, -3, -2, -1, 1, 2)
        }
        allowed = _renderings(dict(one.figures)) | dates | _renderings(dict(one.candidate.series.get("windows", {})))
        # Sentences that set two figures beside each other print their ratio.
        plain = [
            v for v in (*one.figures.values(), *(one.figures.get("why") or {}).values()) if isinstance(v, int | float)
        ]
        for other in about[1:]:
            plain += [v for v in other.figures.values() if isinstance(v, int | float)]
        pairs = [(a, b) for a in plain for b in plain if b and not isinstance(a, bool) and a is not b]
        allowed |= {text for a, b in pairs for text in PARTS.findall(numbers.percent(100 * abs(a / b - 1)))}
        allowed |= {
            text for a, b in pairs for text in PARTS.findall(f"{numbers.percent(100 * a / b)} {numbers.plain(a / b)}")
        }
        for part in PARTS.findall(
            re.sub(r"PS\d+|\d{4}-\d\d-\d\d|\d{1,2} [A-Z][a-z]+ \d{4}|[A-Z][a-z]+ \d{4}", "", fact.text)
        ):
            looked += 1
            assert part in allowed or part in ("3", "95"), (fact.text, part)
    assert looked >= 30


def test_a_stranger_can_tell_the_planted_stories_back(demo_scan: ga.Scan) -> None:
    text = f"{demo_scan.summary('long')}"
    for told in (
        "peaks in August",
        "Average delay of Outer Isles rose",
        "Peak stepped up",
        "Gannet Line stepped up",
        "Row 20,317",
        "10 February 2025",
        "Web has risen",
        "October 2025 is unfinished",
    ):
        assert told in text, told
    for noise in ("rota", "tide", "Amber", "Coral"):
        assert noise not in text


def test_suggestions_name_their_sum_and_the_next_look(demo_scan: ga.Scan) -> None:
    found = demo_scan.suggestions(5)
    assert 3 <= len(found) <= 5
    ids = {one.id for one in demo_scan.findings}
    for one in found:
        assert one.finding in ids
        assert one.reckoned
        assert PARTS.search(one.text)
        assert one.next_look.startswith("golden-almanac ")
    declines = demo_scan.suggestions(5, side="decline")
    assert declines
    assert all(one.side == "decline" for one in declines)
    row = next(one for one in demo_scan.suggestions(20) if "Check row" in one.text)
    assert row.amount == pytest.approx(27657.38 - 318, rel=0.01)
    assert suggestions([], "x.csv") == []
    with pytest.raises(ga.RequestError, match="improvement, decline, data"):
        demo_scan.suggestions(side="good")


@pytest.mark.parametrize(
    ("text", "filled"),
    [
        ("Revenue {{ revenue.change_pct | percent }} in {{ revenue.period }}", "Revenue +11% in September 2025"),
        ("{{ revenue }}, {{ revenue.change | difference }}", "1.37 million, +140,000"),
        ("{{ on_time_rate.value | amount }} on time", None),
        ("no values, 100% plain <b>", "no values, 100% plain <b>"),
    ],
)
def test_live_values(demo_scan: ga.Scan, text: str, filled: str | None) -> None:
    made = demo_scan.fill(text)
    assert made == filled if filled is not None else re.fullmatch(r"\d\d\.\d% on time", made)


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("{{ revenu.change }}", "Did you mean 'revenue'"),
        ("{{ revenue.chnge }}", "Did you mean 'change'"),
        ("{{ revenue.change | pct }}", "one of amount"),
        ("{{ revenue.__class__ }}", "cannot be"),
        ("{{ ''.__class__.__mro__ }}", "cannot be"),
        ("{% for x in revenue %}", "plain text"),
        ("{{ revenue", "plain text with values"),
        ("{{ range(9) }}", "cannot be"),
    ],
)
def test_live_values_are_held_to_their_names(demo_scan: ga.Scan, text: str, message: str) -> None:
    with pytest.raises(ga.RequestError, match=message):
        demo_scan.fill(text)


def _read(text: str) -> float:
    """The first figure of a text, with its scale."""
    match = re.search(r"([\d.,]+)(?:\s*(million|billion))?", text)
    assert match, text
    return float(match[1].replace(",", "").rstrip(".")) * {"million": 1e6, "billion": 1e9}.get(match[2] or "", 1.0)


def test_the_arithmetic_of_a_suggestion_comes_out_as_told(demo_scan: ga.Scan) -> None:
    checked = 0
    for one in suggestions(demo_scan.findings, "sailings.csv", most=50):
        if " × " in one.reckoned:
            gap, rows = one.reckoned.split(" × ")
            told = _read(gap) * _read(rows) / (100 if "point" in gap or "%" in gap else 1)
            assert told == pytest.approx(abs(one.amount), rel=5e-3)
        elif " − " in one.reckoned:
            high, low = one.reckoned.split(" − ")
            told = _read(high) - _read(low) if "%" not in high else (_read(high) - _read(low)) / 100
            digits = abs(told) or 1.0
            assert abs(told - one.amount) <= 0.006 * max(digits, abs(one.amount)), one
        elif " ÷ " in one.reckoned:
            high, low = one.reckoned.split(" ÷ ")
            assert _read(high) / _read(low) == pytest.approx(one.amount, rel=0.01)
        else:
            continue
        checked += 1
    assert checked >= 5
