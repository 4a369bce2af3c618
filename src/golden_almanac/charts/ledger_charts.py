"""A ledger's review drawn: the accounts that want a question, each beside what is usual for it; the margin's bridge."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from ..aggregation.measures import Measure
from ..analysis.ledger import LASTING, Judged, LedgerQuestion, LedgerReview, MarginBridge
from ..text import dates, names
from ..text.languages import say
from ..text.ledger_sentences import shown_points
from . import theme
from .bridge import bridge
from .chart import Chart, other
from .small_multiples import multiples

#: Accounts, and lines of the bridge, that a picture has room for.
_ACCOUNTS, _LINES = 6, 9


def draw_accounts(found: LedgerReview, money: Measure, title: str) -> Chart:
    """A panel for each of the accounts that weigh most: its months, the 95% range of what is usual, the odd months lit.
    Raises LookupError where there is no account to draw."""
    books = found.books
    wanted = list(dict.fromkeys(one.account for one in found.questions if one.account in books.names))[:_ACCOUNTS]
    grain = names.grain_noun(books.line.grain.value)
    judged = {one.name: one for one in found.accounts}
    shown = [judged[name] for name in wanted if name is not None]
    if not shown:
        raise LookupError("there is nothing to draw")

    def ranges(axes: Any, place: int, places: Any) -> None:
        one = shown[place]
        _usual(axes, one, places)
        odd = _odd(found, one.name)
        values = books.amounts[books.names.index(one.name)]
        axes.plot(
            places[odd], values[odd], linestyle="none", marker="o", markersize=5.5, color=theme.ACCENT, zorder=5
        )  # fmt: skip

    return multiples(
        name="ledger-accounts",
        title=title,
        subtitle=say("Amounts by {grain}; shaded: 95% range of what is usual", grain=grain),
        source=say("Source: {name}", name=books.table.name),
        timeline=books.line,
        offset=books.line.complete.start,
        series=[(names.label(one.name), books.amounts[books.names.index(one.name)]) for one in shown],
        spans=(),
        measure=money,
        highlight=0,
        beside=ranges,
    )  # fmt: skip


def _usual(axes: Any, one: Judged, places: Any) -> None:
    if one.course is not None:
        axes.fill_between(
            places, one.course.low, one.course.high, color=theme.CONTEXT, alpha=0.3, linewidth=0, zorder=1
        )


def _odd(found: LedgerReview, account: str) -> Any:
    """The places of the months asked about; of what lasts, all from its first on."""
    books = found.books
    starts = np.array([books.period(place).start for place in range(books.count)])
    odd = np.zeros(books.count, dtype=bool)
    for one in found.questions:
        if one.account != account or one.kind in ("round", "digits"):
            continue
        odd |= _months(one, starts)
    return odd


def _months(one: LedgerQuestion, starts: Any) -> Any:
    if one.kind in LASTING and one.kind != "stops":
        return starts >= one.period.start
    own = starts == one.period.start
    return own if one.other is None else own | (starts == one.other.start)


def draw_bridge(made: MarginBridge, money: Measure, title: str, source: str) -> Chart:
    """The margin as a share of revenue, from the baseline to the period, line by line."""
    # As they are shown everywhere: rounded so that they add up.
    lines = [
        (names.label(line.account), value)
        for line, value in zip(made.lines, shown_points(made).values, strict=True)
        if not line.revenue
    ]
    lines.sort(key=lambda line: -abs(line[1]))
    moved = sum(value != 0 for _, value in lines)
    steps, rest = lines[: min(moved, _LINES)], lines[min(moved, _LINES) :]
    if rest:
        steps.append((other(len(rest)), sum(value for _, value in rest)))
    before, now = made.share
    return bridge(
        name="margin-bridge",
        title=title,
        subtitle=say("Margin as a share of revenue, in points by line"),
        source=source,
        ends=((dates.period(made.baseline), before), (dates.period(made.period), now)),
        steps=steps,
        measure=replace(money, share=True, unit=None, decimals=None),
        by=say("Line", "column"),
    )
