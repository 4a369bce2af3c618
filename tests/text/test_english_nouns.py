"""One and many of English nouns, as columns are called."""

from __future__ import annotations

import pytest

from golden_almanac.support.english_nouns import plural, singular


@pytest.mark.parametrize(
    ("one", "many"),
    [
        ("status", "statuses"),
        ("campus", "campuses"),
        ("fare class", "fare classes"),
        ("city", "cities"),
        ("axis", "axes"),
        ("hypothesis", "hypotheses"),
        ("house", "houses"),
        ("cause", "causes"),
        ("use", "uses"),
        ("bus", "buses"),
        ("gas", "gases"),
        ("genus", "genera"),
        ("quay", "quays"),
        ("person", "people"),
        ("branch", "branches"),
    ],
)
def test_one_and_many(one: str, many: str) -> None:
    assert (plural(one), singular(many), singular(one)) == (many, one, one)


@pytest.mark.parametrize("many", ["events", "other events", "people", "sales", "categories"])
def test_many_stay_many(many: str) -> None:
    assert plural(many) == many
