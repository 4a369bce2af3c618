"""The questions of a ledger's review, and its margin bridge, as tables."""

from __future__ import annotations

from ...aggregation.measures import Measure
from ...analysis.ledger import LedgerReview, MarginBridge
from .. import consistent_rounding, dates, names, numbers
from ..languages import say
from ..ledger_asking import asked, weight
from ..ledger_sentences import shown_points
from .text_table import NONE, TextTable

#: Rows that a table shows.
_MOST = 25


def questions_table(found: LedgerReview, money: Measure) -> TextTable:
    """A row a question, the weightiest first."""
    heads = (
        say("Weight", "column"),
        say("Account", "column"),
        say("Period", "column"),
        say("Question", "column"),
        say("Amount", "column"),
        say("Of base", "column") if found.base is not None else say("Of usual", "column"),
    )
    rows = [
        (
            weight(one),
            NONE if one.account is None else names.label(one.account),
            dates.period(one.period),
            asked(one),
            NONE if not one.amount else numbers.signed(one.amount, numbers.difference(one.amount, money)),
            NONE if not one.amount or one.share == float("inf") else numbers.percent(100 * one.share),
        )
        for one in found.questions[:_MOST]
    ]
    return TextTable(title=say("What to ask"), heads=heads, rows=tuple(rows), left=4)


def bridge_table(bridge: MarginBridge, money: Measure) -> TextTable:
    """A row a line, as it moves the margin: before, now, the change in money and in points; rows and columns add up."""
    told = consistent_rounding.ledger(
        [line.before for line in bridge.lines], [line.now for line in bridge.lines], money
    )
    points = shown_points(bridge)
    heads = (
        say("Line", "column"),
        dates.period(bridge.baseline),
        dates.period(bridge.period),
        say("Change", "column"),
        say("Points of revenue", "column"),
    )
    rows = [
        (
            names.label(line.account),
            told.first.text(before),
            told.second.text(now),
            told.change.text(change, signed=True),
            points.text(part, signed=True) if part else NONE,
        )
        for line, before, now, change, part in zip(
            bridge.lines, told.first.parts, told.second.parts, told.change.parts, points.parts, strict=True
        )
    ]
    total = (
        say("Margin", "column"),
        told.first.text(told.first.whole),
        told.second.text(told.second.whole),
        told.change.text(told.change.whole, signed=True),
        points.text(points.whole, signed=True),
    )
    return TextTable(title=say("How the margin moved"), heads=heads, rows=tuple(rows), total=total, left=1)
