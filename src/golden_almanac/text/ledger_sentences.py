"""A review of a ledger in sentences: what lies off, what to ask, how the margin moved."""

from __future__ import annotations

from dataclasses import replace

from ..aggregation.measures import ROWS, Measure
from ..analysis.ledger import BridgeLine, LedgerReview, MarginBridge
from . import consistent_rounding, dates, names, numbers
from .caveats import sentence
from .languages import count, say, statement
from .ledger_asking import told
from .summary import Summary, fit

#: Questions, and lines of the bridge, that a summary tells.
_TOLD = {"short": 1, "standard": 3, "long": 8}
#: The part of a line's change from which an open question bears on it.
_BEARS = 0.2
#: What points of revenue are told in.
_SHARE = replace(ROWS, share=True)
_LINES = {"short": 0, "standard": 2, "long": 6}


def ledger_summary(found: LedgerReview, bridge: MarginBridge | None, money: Measure, length: str) -> Summary:
    """What weighs most, how much there is to ask, how the margin moved."""
    weighty = [one for one in found.questions if one.weight != "small"] or list(found.questions)
    sentences = [told(one, money) for one in weighty[: _TOLD[length]]]
    body = [*sentences[1:], *([_counted(found)] if found.questions else [])]
    if bridge is not None:
        body += [
            bridge_sentence(bridge, money),
            *(line_sentence(one, bridge, money) for one in leading(bridge)[: _LINES[length]]),
        ]
    return fit(sentences[0] if sentences else _nothing(found), body, [], length)


def _nothing(found: LedgerReview) -> str:
    return say(
        "Nothing wants a question: {accounts} accounts over {n} {grain:plural} lie as usual.",
        accounts=numbers.whole(len(found.books.names)),
        n=numbers.whole(found.books.count),
        grain=names.grain_noun(found.books.line.grain.value),
    )


def _counted(found: LedgerReview) -> str:
    """How many questions there are, and from where on they are major."""
    places = {
        "n": numbers.whole(len(found.questions)),
        "major": numbers.whole(len(found.of_weight("major"))),
        "minor": numbers.whole(len(found.of_weight("minor"))),
        "from": numbers.as_percent(numbers.trimmed(100 * found.materiality.major)),
        "least": numbers.as_percent(numbers.trimmed(100 * found.materiality.minor)),
    }
    if found.base is None:
        return count(
            len(found.questions),
            "{n} question in all: {major} major (from {from} of what is usual for the account), {minor} minor (from "
            "{least}).",
            "{n} questions in all: {major} major (from {from} of what is usual for the account), {minor} minor (from "
            "{least}).",
            **places,
        )
    return count(
        len(found.questions),
        "{n} question in all: {major} major (from {from} of {base}), {minor} minor (from {least}).",
        "{n} questions in all: {major} major (from {from} of {base}), {minor} minor (from {least}).",
        base=base_name(found),
        **places,
    )


def base_name(found: LedgerReview) -> str:
    """What questions are weighed against."""
    if found.base is None:
        return say("what is usual")
    return names.listed([names.label(name) for name in found.base.names])


def bridge_sentence(bridge: MarginBridge, money: Measure) -> str:
    """The margin now and before, in points of revenue and in money."""
    before, now = bridge.share
    places = {
        "now": numbers.share(now),
        "period": dates.period(bridge.period),
        "before": numbers.share(before),
        "baseline": dates.period(bridge.baseline),
        "money": numbers.difference(bridge.margin[1] - bridge.margin[0], money),
    }
    if bridge.margin[1] >= bridge.margin[0]:
        return say(
            "The margin was {now} of revenue in {period}, against {before} in {baseline}: {money} more.", **places
        )
    return say("The margin was {now} of revenue in {period}, against {before} in {baseline}: {money} less.", **places)


def shown_points(bridge: MarginBridge) -> consistent_rounding.Shown:
    """The points of all lines as they are shown everywhere: they add to the change of the margin's share."""
    before, now = bridge.share
    return consistent_rounding.split([line.points / 100 for line in bridge.lines], now - before, _SHARE)


def leading(bridge: MarginBridge) -> list[BridgeLine]:
    """The lines of cost, those that moved the margin most first."""
    lines = [line for line in bridge.lines if not line.revenue and abs(line.points) >= 0.05]
    return sorted(lines, key=lambda line: (-abs(line.points), line.account))


def line_sentence(line: BridgeLine, bridge: MarginBridge, money: Measure) -> str:
    """What a line did to the margin, what makes most of that, and whether a question on it is open."""
    if any(abs(one.amount) >= _BEARS * abs(line.money) for one in line.questions):
        return statement((_line(line, bridge, money), " ", say("A question on it is open.")))
    return _line(line, bridge, money)


def _line(line: BridgeLine, bridge: MarginBridge, money: Measure) -> str:
    shown = shown_points(bridge).values[bridge.lines.index(line)]
    places = {
        "account": names.label(line.account),
        "points": numbers.points(100 * shown),
        "now": numbers.amount(abs(line.now), money),
        "before": numbers.amount(abs(line.before), money),
    }
    if line.slice_ is not None:
        part = {
            "label": names.label(line.slice_.label),
            "column": names.column(line.slice_.column),
            "part": numbers.difference(line.slice_.money, money),
            "whole": numbers.difference(line.money, money),
        }
        whole = line.slice_.money / line.money
        if line.points < 0 and 0.95 < whole < 1.05:
            return say(
                "{account} took {points} of it ({now} after {before}), all at {label} ({column}).", **places, **part
            )
        if 0.95 < whole < 1.05:
            return say(
                "{account} gave {points} to it ({now} after {before}), all at {label} ({column}).", **places, **part
            )
        if line.points < 0:
            return say(
                "{account} took {points} of it ({now} after {before}); {part} of the {whole} at {label} ({column}).",
                **places, **part,
            )  # fmt: skip
        return say(
            "{account} gave {points} to it ({now} after {before}); {part} of the {whole} at {label} ({column}).",
            **places, **part,
        )  # fmt: skip
    if line.points < 0:
        return say("{account} took {points} of it ({now} after {before}).", **places)
    return say("{account} gave {points} to it ({now} after {before}).", **places)


def ledger_caveats(found: LedgerReview, bridge: MarginBridge | None) -> list[str]:
    """What was assumed, and what could not be judged."""
    said = [sentence(name, facts) for name, facts in found.books.notes]
    if found.assumed and found.base is not None:
        said.append(say("Amounts are weighed against {base}, chosen by its name.", base=base_name(found)))
    if found.base is not None and not found.base.usable:
        said.append(
            say("{base} has months without an amount; so accounts are judged by themselves.", base=base_name(found))
        )
    if found.short:
        said.append(
            count(
                len(found.short),
                "{n} account has too few months to say what is usual for it: {which}.",
                "{n} accounts have too few months to say what is usual for them: {which}.",
                n=numbers.whole(len(found.short)),
                which=_few(found.short),
            )
        )
    if found.lone:
        said.append(
            count(
                len(found.lone),
                "{n} account has a single posting: {which}.",
                "{n} accounts have a single posting each: {which}.",
                n=numbers.whole(len(found.lone)),
                which=_few(found.lone),
            )
        )
    if found.skipped:
        said.append(
            count(
                found.skipped,
                "{n} period has no postings at all.",
                "{n} periods have no postings at all.",
                n=numbers.whole(found.skipped),
            )
        )
    if found.unfinished:
        said.append(say("The last period is not over and is left out."))
    if bridge is not None:
        said.append(say("All accounts beside revenue count as lines of the margin."))
    return said


def _few(accounts: tuple[str, ...]) -> str:
    shown = [names.label(name) for name in accounts[:3]]
    if len(accounts) > 3:
        shown.append(say("{n} more", n=numbers.whole(len(accounts) - 3)))
    return names.listed(shown)
