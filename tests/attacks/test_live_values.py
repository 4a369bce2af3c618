"""Live values: names with filters, and nothing else; no expression is evaluated."""

from __future__ import annotations

import pytest

import golden_almanac as ga
from golden_almanac.text import Live, fill

VALUES = {"revenue": Live({"value": 12.0, "change_pct": 3.5, "period": "May 2025"}, None), "n": 7.0}

REFUSED = [
    "{{ 7919*7907 }}", "{{ 'z' * 5000000000 }}", "{{ self }}", "{{ self._TemplateReference__context }}", "{{ revenue.__class__ }}",
    "{{ revenue._figures }}", "{{ revenue['value'] }}", "{{ revenue.value.real }}", "{{ revenue.figure('value') }}", "{{ revenue() }}",
    "{{ n + 1 }}", "{{ -n }}", "{{ n ** 99999999 }}", "{{ 1 }}", "{{ 'x' }}", "{{ [n] }}", "{{ {'a': n} }}", "{{ n if n else n }}",
    "{{ n == n }}", "{{ not n }}", "{{ n ~ n }}", "{{ range(9) }}", "{{ cycler }}", "{{ lipsum() }}", "{{ namespace }}", "{{ dict }}",
    "{{ n is defined }}", "{{ revenue | attr('x') }}", "{{ n | whole(3) }}", "{{ n | e }}", "{{ n | list }}",
    "{% for i in [1] %}x{% endfor %}", "{% set a = 1 %}", "{% include 'x' %}", "{% raw %}{% endraw %}", "{# note #}", "{{ revenue", "{{ }}",
    "{{ revenue.nothing }}", "{{ nothing }}", "{{ revenue.period | percent }}", "{{ n.value }}", "x" * 30_000, "{{ n }}" * 300,
    "{{ " + "(" * 5000 + "n" + ")" * 5000 + " }}", "{{ n" + " | whole" * 5000 + " }}",
]  # fmt: skip


@pytest.mark.parametrize("text", REFUSED)
def test_anything_but_a_name_with_filters_is_refused(text: str) -> None:
    with pytest.raises(ga.RequestError) as told:
        fill(text, VALUES)
    assert "object" not in str(told.value)
    assert len(str(told.value)) < 400


def test_names_with_filters_are_filled() -> None:
    assert fill("{{ revenue }} in {{ revenue.period }}: {{ revenue.change_pct | percent }}", VALUES) == (
        "12 in May 2025: +3.5%"
    )
    assert fill("{{ n | whole }} & <b> 100% {plain}\n", VALUES) == "7 & <b> 100% {plain}\n"
