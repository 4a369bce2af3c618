"""False-discovery control, scores, order and folding."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

import golden_almanac as ga
from golden_almanac.findings import Finding
from golden_almanac.findings.scoring import ordered, squash
from golden_almanac.stats.false_discovery import LEVEL, MOST_RANK, q_values, worth_a_look

#: The fifteen p-values of Benjamini & Hochberg (1995), section 4: at 5% the first four are rejected.
PUBLISHED = [
    0.0001,
    0.0004,
    0.0019,
    0.0095,
    0.0201,
    0.0278,
    0.0298,
    0.0344,
    0.0459,
    0.3240,
    0.4262,
    0.5719,
    0.6528,
    0.7590,
    1.000,
]


def test_published_example() -> None:
    assert (q_values(PUBLISHED) <= 0.05).sum() == 4


@given(st.lists(st.floats(1e-12, 1), min_size=1, max_size=60))
def test_agrees_with_scipy_in_any_order(p: list[float]) -> None:
    assert q_values(p) == pytest.approx(stats.false_discovery_control(p), rel=1e-9)


@given(st.lists(st.floats(1e-9, 1), min_size=2, max_size=30))
def test_equal_weights_change_nothing(p: list[float]) -> None:
    assert q_values(p, [2.0] * len(p)) == pytest.approx(q_values(p))


def test_ranks_beyond_the_last_buy_no_more_room() -> None:
    p = [0.001] * 10
    assert q_values(p, most_rank=2)[0] == pytest.approx(0.001 * 10 / 2)
    assert q_values(p)[0] == pytest.approx(0.001)


@given(st.lists(st.floats(1e-9, 1), min_size=1, max_size=60), st.integers(0, 3000))
def test_what_is_not_worth_a_look_is_never_told(p: list[float], others: int) -> None:
    """Whatever else a family holds: of so many tests, none less sure than the bound has a small q-value."""
    told = q_values([*p, *[1.0] * others], most_rank=MOST_RANK)[: len(p)] <= LEVEL
    assert all(one <= worth_a_look(len(p) + others) for one, is_told in zip(p, told, strict=True) if is_told)
    assert worth_a_look(len(p) + others) <= worth_a_look(len(p))


def test_weights_divide_p_values() -> None:
    assert q_values([0.01, 0.02], [1.5, 0.5]).tolist() == pytest.approx([2 * 0.01 / 1.5, 0.02 / 0.5])


def test_squash() -> None:
    assert squash(0, 3) == 0
    assert squash(-3, 3) == 0.5
    assert squash(1e300, 3) == pytest.approx(1)


def test_order_is_by_score_with_diversity(demo_scan: ga.Scan) -> None:
    every = demo_scan.findings

    def rests_on(one: ga.Finding) -> list[str]:
        """What is told of the labels that it leaves out: both are one story, what they did first."""
        besides = one.candidate.series.get("besides", ())
        return [f.id for f in every if f.where.label in besides and f.by == one.by and f.measure == one.measure]

    first = [one for one in every[:10] if not rests_on(one)]
    kinds = [one.kind for one in first]
    waiting = {one.kind for one in every[10:]}
    for kind in set(kinds):
        assert kinds.count(kind) <= 3 or waiting <= {kind}
    raised = {name for one in every for name in rests_on(one)}
    by_kind: dict[str, list[float]] = {}
    for one in every:
        if one.id not in raised:
            by_kind.setdefault(one.kind, []).append(one.score.total)
    for totals in by_kind.values():
        assert totals == sorted(totals, reverse=True)
    assert [one.id for one in ordered(tuple(reversed(demo_scan.findings)))] == [one.id for one in demo_scan.findings]


def test_score_is_what_it_says(demo_scan: ga.Scan) -> None:
    for one in demo_scan.findings:
        for part in (one.score.strength, one.score.reach, one.score.confidence, one.score.total):
            assert 0 <= part <= 1
        assert one.score.total <= (one.score.strength * one.score.reach * one.score.confidence) ** (1 / 3) + 1e-9


def test_folded_findings_hang_under_told_ones_with_a_reason(demo_scan: ga.Scan) -> None:
    told = {one.id for one in demo_scan.findings}
    assert demo_scan.folded
    for one in demo_scan.folded:
        assert one.folded_under is not None
        assert one.folded_under[0] in told
        assert one.folded_under[1]
        assert one.id not in told
    for one in demo_scan.findings:
        assert set(one.related) == {f.id for f in demo_scan.folded if f.folded_under and f.folded_under[0] == one.id}


def test_no_story_is_told_twice(demo_scan: ga.Scan) -> None:
    """No two told findings are the same movement of the same slice in two measures."""
    moving = [one for one in demo_scan.findings if one.kind in ("trend", "shift")]
    for i, one in enumerate(moving):
        for other in moving[:i]:
            if one.where == other.where:
                a, b = one.candidate.series["y"], other.candidate.series["y"]
                assert abs(np.corrcoef(a, b)[0, 1]) < 0.6


def test_ids_are_stable_and_different(demo_scan: ga.Scan, sailings: object) -> None:
    ids = [one.id for one in (*demo_scan.findings, *demo_scan.folded)]
    assert len(set(ids)) == len(ids)
    again = ga.scan(sailings)
    assert [one.id for one in again.findings] == [one.id for one in demo_scan.findings]


def test_every_figure_of_the_demo_is_given_again_by_its_sql(demo_scan: ga.Scan) -> None:
    for one in (*demo_scan.findings, *demo_scan.folded):
        result = one.check()
        assert result.agrees, (one.headline, result)
        assert result.expected


def test_a_wrong_figure_is_caught(demo_scan: ga.Scan) -> None:
    one = demo_scan.findings[0]
    name = next(iter(one.evidence.expect))
    check = replace(one.evidence, expect={**one.evidence.expect, name: one.evidence.expect[name] * 1.001})
    wrong: Finding = replace(one, candidate=replace(one.candidate, check=check))
    assert wrong.check().differing == (name,)


def test_rows_behind_a_finding(demo_scan: ga.Scan, sailings: object) -> None:
    lines = open(str(sailings), encoding="utf-8").read().splitlines()  # noqa: SIM115
    outlier = next(one for one in demo_scan.findings if one.kind == "outlier")
    frame = outlier.rows()
    assert len(frame) == 1
    assert str(frame["sailing_id"].iloc[0]) in lines[int(frame.index[0]) - 1]
    for one in demo_scan.findings[:6]:
        rows = one.rows()
        for column, label in one.where.conditions:
            assert set(rows[column]) == {label}
        row = int(rows.index[-1])
        assert str(rows["sailing_id"].iloc[-1]) in lines[row - 1]


def test_what_is_left_out_of_the_rest_is_told_before(demo_scan: ga.Scan) -> None:
    """ "Against the other channels but Agents" is read once Agents is known."""
    pairs = 0
    for place, one in enumerate(demo_scan.findings):
        for label in one.candidate.series.get("besides", ()):
            alike = [
                before
                for before, other in enumerate(demo_scan.findings)
                if other.where.label == label and other.by == one.by and other.measure == one.measure
                if other.definition.movement is not None
            ]
            pairs += bool(alike)
            assert not alike or min(alike) < place, one.headline
    assert pairs
