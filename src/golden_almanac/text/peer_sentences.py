"""Own figures beside peers in sentences: where ahead, where behind, what closing half the gap is worth, who the peers
are."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from ..aggregation.measures import ROWS, Measure
from ..analysis.peers import PeerLine, Peers
from . import consistent_rounding, names, numbers
from .languages import count, say
from .summary import Summary, fit
from .text_tables import TextTable

#: Lines that a summary tells of each side; peers from which a place is known well.
_TOLD = {"short": 1, "standard": 2, "long": 6}
_MANY = 12
#: Parts of the gap that a sentence names.
_PARTS = 4
NONE = "–"
#: What shares of revenue are told in.
_SHARE = replace(ROWS, share=True)


def peers_summary(found: Peers, amounts: Mapping[str, Measure], length: str) -> Summary:
    """Behind, ahead, what the gap consists of, who the peers are."""
    behind = [line for line in found.lines if line.side < 0]
    ahead = sorted((line for line in found.lines if line.side > 0), key=lambda line: line.measure)
    most = _TOLD[length]
    told = [*(_behind(line, amounts) for line in behind[:most]), *(_ahead(line) for line in ahead[:most])]
    if not told:
        told = [
            count(
                len(found.lines),
                "{n} figure does not lie apart from the middle of {peers} peers for sure.",
                "None of {n} figures lies apart from the middle of {peers} peers for sure.",
                n=numbers.whole(len(found.lines)),
                peers=numbers.whole(len(found.chosen.names)),
            )
        ]
    parts = [_parts(found)] if found.parts else []
    return fit(told[0], [*told[1:], *parts, who(found)], [], length)


def line_name(line: PeerLine) -> str:
    """What a line is: "maintenance as a share of revenue", "staff per million of revenue"."""
    places = {"measure": names.column(line.measure), "per": "" if line.per is None else names.column(line.per)}
    if line.per is None:
        return str(places["measure"])
    if line.share:
        return say("{measure} as a share of {per}", **places)
    if line.times == 1e3:
        return say("{measure} per thousand of {per}", **places)
    if line.times == 1e6:
        return say("{measure} per million of {per}", **places)
    if line.times == 1e9:
        return say("{measure} per billion of {per}", **places)
    return say("{measure} per {per}", measure=places["measure"], per=names.one_of(names.column(line.per or "")))


def value(line: PeerLine, one: float | None) -> str:
    """A value of a line, as people read it."""
    if one is None:
        return NONE
    return numbers.percent(100 * one) if line.share and one >= 0 else numbers.plain(100 * one if line.share else one)


def _behind(line: PeerLine, amounts: Mapping[str, Measure]) -> str:
    past = line.quantile if line.way == "down" else 1 - line.quantile
    places = {
        "line": names.capital(line_name(line)),
        "own": value(line, line.own),
        "middle": value(line, line.median),
        "k": numbers.whole(round(past * line.n)),
        "n": numbers.whole(line.n),
        "worth": numbers.amount(line.half_worth or 0.0, amounts[line.measure]),
    }
    if not line.share and line.per is not None:
        # No money: so many more or fewer passengers, heads.
        return say(
            "{line} is {own}, behind {k} of {n} peers (middle: {middle}); half the gap is {worth} in {measure}.",
            measure=names.column(line.measure), **places,
        )  # fmt: skip
    return say(
        "{line} is {own}, behind {k} of {n} peers (middle: {middle}); closing half the gap is worth {worth}.", **places
    )


def _ahead(line: PeerLine) -> str:
    before = 1 - line.quantile if line.way == "down" else line.quantile
    return say(
        "{line} is {own}, ahead of {k} of {n} peers (middle: {middle}).",
        line=names.capital(line_name(line)),
        own=value(line, line.own),
        middle=value(line, line.median),
        k=numbers.whole(round(before * line.n)),
        n=numbers.whole(line.n),
    )


def _parts(found: Peers) -> str:
    """What the gap in costs consists of."""
    told = shown_parts(found).second
    shown = [
        say("{measure} {points}", measure=names.column(part.measure), points=told.text(points, signed=True))
        for part, points in zip(found.parts[:_PARTS], told.parts, strict=False)
    ]
    if len(found.parts) > _PARTS:
        shown.append(say("the others {points}", points=told.text(sum(told.parts[_PARTS:]), signed=True)))
    places = {
        "gap": numbers.points(100 * abs(sum(told.values))),
        "base": names.column(found.base or ""),
        "parts": names.listed(shown),
    }
    if told.whole >= 0:
        return say("Costs take {gap} of {base} more than those of the peers together: {parts}.", **places)
    return say("Costs take {gap} of {base} less than those of the peers together: {parts}.", **places)


def shown_parts(found: Peers) -> consistent_rounding.Ledger:
    """The costs of the peers together, the gaps and the own ones, as they are shown everywhere: they add up."""
    return consistent_rounding.sums([part.peers for part in found.parts], [part.gap for part in found.parts], _SHARE)


def who(found: Peers) -> str:
    """Who the peers are, and why."""
    chosen = found.chosen
    n = numbers.whole(len(chosen.names))
    listed = _few(chosen.names)
    if chosen.named:
        return say("The {n} peers were named: {which}.", n=n, which=listed)
    places = {"n": n, "which": listed}
    if chosen.band is not None and chosen.size is not None:
        places |= {"size": str(names.column(chosen.size)), "band": numbers.trimmed(chosen.band)}
        if chosen.category is not None:
            return say(
                "The {n} peers are {label} too, and up to {band} times smaller or larger by {size}: {which}.",
                label=names.label(chosen.category[1]), **places,
            )  # fmt: skip
        return say("The {n} peers are up to {band} times smaller or larger by {size}: {which}.", **places)
    if chosen.category is not None:
        return say("The {n} peers are {label} too: {which}.", label=names.label(chosen.category[1]), **places)
    return say("The {n} peers are all there are: {which}.", **places)


def _few(peers: tuple[str, ...]) -> str:
    shown = [names.label(name) for name in peers[:5]]
    if len(peers) > 5:
        shown.append(say("{n} more", n=numbers.whole(len(peers) - 5)))
    return names.listed(shown)


def peers_caveats(found: Peers, size: str | None, category: str | None) -> list[str]:
    """What was assumed, and what could not be met."""
    told = []
    if category is not None and found.chosen.category is None and not found.chosen.named:
        told.append(say("Too few peers share the category, so that all take part."))
    if size is not None and found.chosen.band is None and not found.chosen.named:
        told.append(say("No peers are of about the own size, so that all take part."))
    assumed = sorted({line.measure for line in found.lines if line.assumed})
    if assumed:
        told.append(say("Taken as costs, of which less is better: {which}.", which=_columns(assumed)))
    unsaid = sorted({line.measure for line in found.lines if line.way is None})
    if unsaid:
        told.append(say("Nobody says which way is better of {which}.", which=_columns(unsaid)))
    n = len(found.chosen.names)
    if n < _MANY:
        told.append(say("Of {n} peers a place is known roughly; its 95% range stands beside it.", n=numbers.whole(n)))
    return told


def _columns(wanted: Sequence[str]) -> str:
    return names.listed([str(names.column(one)) for one in wanted])


def _percent(share: float) -> str:
    """A place among peers, which is known to whole percent at best."""
    return numbers.as_percent(numbers.fixed(100 * share, 0))


def peers_table(found: Peers, amounts: Mapping[str, Measure]) -> TextTable:
    """A row a line: own, the middle, the better quarter, the place with its range, what the better quarter is worth."""
    heads = (
        say("Figure", "column"),
        say("Own", "column"),
        say("Middle", "column"),
        say("Better quarter", "column"),
        say("Peers below", "column"),
        say("To the better quarter", "column"),
    )
    rows = [
        (
            names.capital(line_name(line)),
            value(line, line.own),
            value(line, line.median),
            value(line, line.best),
            say(
                "{share} ({low} to {high})",
                share=_percent(line.quantile),
                low=_percent(line.low),
                high=_percent(line.high),
            ),
            NONE if not line.gap_amount else numbers.amount(line.gap_amount, amounts[line.measure]),
        )
        for line in found.lines
    ]
    return TextTable(
        title=say("Beside {n} peers", n=numbers.whole(len(found.chosen.names))), heads=heads, rows=tuple(rows)
    )


def parts_table(found: Peers, amounts: Mapping[str, Measure]) -> TextTable:
    """A row a line of cost: own share, that of the peers together, the gap in points and in money; both add up."""
    told = shown_parts(found)
    money = consistent_rounding.split(
        [part.amount for part in found.parts], sum(part.amount for part in found.parts), amounts[found.parts[0].measure]
    )
    rows = [
        (
            names.capital(str(names.column(part.measure))),
            told.change.text(own),
            told.first.text(peers),
            told.second.text(gap, signed=True),
            money.text(amount, signed=True),
        )
        for part, peers, gap, own, amount in zip(
            found.parts, told.first.parts, told.second.parts, told.change.parts, money.parts, strict=True
        )
    ]
    total = (
        say("Together", "column"),
        told.change.text(told.change.whole),
        told.first.text(told.first.whole),
        told.second.text(told.second.whole, signed=True),
        money.text(money.whole, signed=True),
    )
    heads = (
        say("Cost", "column"), say("Own", "column"), say("Peers together", "column"), say("Gap", "column"),
        say("Amount", "column"),
    )  # fmt: skip
    return TextTable(title=say("What the gap in costs consists of"), heads=heads, rows=tuple(rows), total=total)
