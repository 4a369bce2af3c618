"""The contributions to a change, dimension by dimension; and several changes beside each other."""

from __future__ import annotations

from collections.abc import Sequence

from ...analysis.change import Breakdown, Explanation
from .. import consistent_rounding, names, numbers
from ..languages import mark, say
from .text_table import NONE, TextTable


def change_tables(explanation: Explanation, most: int, without: Sequence[str] = ()) -> tuple[TextTable, ...]:
    """A table for each dimension but those left out: its first `most` labels, the others together, and the whole.
    Columns add up to their last row; of a sum each row adds up too, of an average or rate its rate and mix do."""
    make = _amounts if explanation.measure.additive else _rates
    return tuple(make(explanation, one, most) for one in explanation.breakdowns if one.by not in without)


def _amounts(explanation: Explanation, breakdown: Breakdown, most: int) -> TextTable:
    parts = breakdown.contributions
    told = consistent_rounding.ledger(
        [part.baseline or 0.0 for part in parts], [part.value or 0.0 for part in parts], explanation.measure
    )
    rows = [
        (
            names.label(part.label),
            NONE if part.baseline is None else told.first.text(before),
            NONE if part.value is None else told.second.text(now),
            told.change.text(change, signed=True),
        )
        for part, before, now, change in zip(parts, told.first.parts, told.second.parts, told.change.parts, strict=True)
    ]
    rest = range(most, len(parts))
    other = (
        _other(len(rest)),
        told.first.text(sum(told.first.parts[i] for i in rest)),
        told.second.text(sum(told.second.parts[i] for i in rest)),
        told.change.text(sum(told.change.parts[i] for i in rest), signed=True),
    )
    total = (
        say("Total"),
        told.first.text(told.first.whole),
        told.second.text(told.second.whole),
        told.change.text(told.change.whole, signed=True),
    )
    return _table(explanation, breakdown, most, told.change, rows, other, total, ())


def _rates(explanation: Explanation, breakdown: Breakdown, most: int) -> TextTable:
    parts = breakdown.contributions
    told = consistent_rounding.sums(
        [part.rate or 0.0 for part in parts], [part.mix or 0.0 for part in parts], explanation.measure
    )
    columns = (told.change, told.first, told.second)
    rows = [
        (
            names.label(part.label),
            _amount(part.baseline, explanation),
            _amount(part.value, explanation),
            *(
                NONE if figure is None else column.text(column.parts[place], signed=True)
                for column, figure in zip(columns, (part.change, part.rate, part.mix), strict=True)
            ),
        )
        for place, part in enumerate(parts)
    ]
    rest = range(most, len(parts))
    other = (
        _other(len(rest)),
        "",
        "",
        *(column.text(sum(column.parts[i] for i in rest), signed=True) for column in columns),
    )
    total = (
        say("Total"),
        _amount(explanation.before, explanation),
        _amount(explanation.value, explanation),
        *(column.text(column.whole, signed=True) for column in columns),
    )
    return _table(
        explanation, breakdown, most, told.change, rows, other, total, (say("rate", "column"), say("mix", "column"))
    )


def _table(
    explanation: Explanation,
    breakdown: Breakdown,
    most: int,
    change: consistent_rounding.Shown,
    rows: Sequence[tuple[str, ...]],
    other: tuple[str, ...],
    total: tuple[str, ...],
    more: tuple[str, ...],
) -> TextTable:
    shares = _shares(explanation, breakdown, most)
    heads = (
        breakdown.by,
        say("baseline", "column"),
        say("value", "column"),
        say("contribution", "column"),
        *more,
        *((say("share of change", "column"),) if shares else ()),
    )
    kept = [*rows[:most], *([other] if len(rows) > most else [])]
    if shares:
        kept = [(*row, share) for row, share in zip(kept, shares, strict=False)]
        total = (*total, shares[-1])
    title = say("By {part}", part=names.dimension(breakdown.by)) + _gross(change)
    return TextTable(title=title, heads=heads, rows=tuple(kept), total=total)


def _shares(explanation: Explanation, breakdown: Breakdown, most: int) -> list[str]:
    """The share of the change of each row shown, then of all; none where nothing changed."""
    found = [part.share for part in breakdown.contributions]
    known = [share for share in found if share is not None]
    if len(known) < len(found) or not known:
        return []
    shown = known[:most] + ([sum(known[most:])] if len(known) > most else [])
    return [*consistent_rounding.shares(shown), numbers.as_percent(numbers.whole(100))]


def _gross(change: consistent_rounding.Shown) -> str:
    """What went up and what went down, where both did."""
    up, down = change.gross
    if not up or not down:
        return ""
    return f" ({say('up {up}, down {down}', up=change.text(up, signed=True), down=change.text(down, signed=True))})"


def _other(number: int) -> str:
    return f"{say('other')} ({number})"


def _amount(value: float | None, explanation: Explanation) -> str:
    return NONE if value is None else numbers.amount(value, explanation.measure)


#: What is said of how a change came about, as the core names it.
_VERDICTS = {
    "usual": mark("usual", "verdict"),
    "season": mark("season", "verdict"),
    "nothing": mark("nothing", "verdict"),
    "even": mark("even", "verdict"),
    "offset": mark("offset", "verdict"),
    "slices": mark("slices", "verdict"),
    "mix": mark("mix", "verdict"),
    "new and ended": mark("new and ended", "verdict"),
}


def changes_table(changes: Sequence[Explanation]) -> TextTable:
    """Several changes, a row each: before, now, change, what was usual, and the verdict."""
    several = len({explanation.baseline.start for explanation in changes}) > 1
    heads = [
        say("measure", "column"),
        *([say("baseline", "column")] if several else []),
        say("verdict", "column"),
        say("before", "column"),
        say("value", "column"),
        say("change", "column"),
        say("usual from", "column"),
        say("to", "column"),
    ]
    rows = []
    for explanation in changes:
        usual = explanation.usual
        span = [NONE, NONE] if usual is None else [_signed(usual.low, explanation), _signed(usual.high, explanation)]
        rows.append(
            (
                explanation.measure.name,
                *([str(explanation.baseline.start)] if several else []),
                say(_VERDICTS.get(explanation.verdict, explanation.verdict), "verdict"),
                _amount(explanation.before, explanation),
                _amount(explanation.value, explanation),
                _signed(explanation.change, explanation),
                *span,
            )
        )
    return TextTable(title=say("Each change"), heads=tuple(heads), rows=tuple(rows), left=3 if several else 2)


def _signed(value: float, explanation: Explanation) -> str:
    return numbers.signed(value, numbers.difference(value, explanation.measure))
