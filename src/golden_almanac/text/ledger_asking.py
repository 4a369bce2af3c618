"""One question of a ledger's review: what lies off, in a sentence, and what to ask those who keep the books."""

from __future__ import annotations

from typing import Any

from ..aggregation.measures import Measure
from ..analysis.ledger import LedgerQuestion
from . import dates, names, numbers
from .languages import count, say


def told(one: LedgerQuestion, money: Measure) -> str:
    """What lies off, with its figures."""
    places = _places(one, money)
    if one.kind in ("round", "digits"):
        return _of_amounts(one, places)
    if one.kind in ("step", "drift", "begins", "stops"):
        return _lasting(one, places)
    if one.kind in ("repeated", "opposite"):
        return _of_postings(one, places)
    if one.kind == "unbalanced" and one.account is None:
        return say("Debits and credits of {period} differ by {amount}.", **places)
    if one.kind == "unbalanced":
        return say("Debits and credits of the entry {account} differ by {amount}.", **places)
    if one.kind == "twice":
        return say("{account} was {value} in {period}, about twice what is usual for it ({usual}).", **places)
    if one.kind == "timing":
        return say("What {account} lacks in {period} stands in {other}: {amount}.", **places)
    if one.kind == "missing":
        return say("{account} has no posting in {period}; {usual} is usual.", **places)
    if one.kind == "sign":
        return say("{account} was {value} in {period}, with another sign than usual ({usual}).", **places)
    if one.amount >= 0:
        return say(
            "{account} was {value} in {period}, {amount} above what is usual for it (95% range {low} to {high}).",
            **places,
        )
    return say(
        "{account} was {value} in {period}, {amount} below what is usual for it (95% range {low} to {high}).", **places
    )


def _places(one: LedgerQuestion, money: Measure) -> dict[str, Any]:
    share = one.kind in ("round", "digits")

    def amount(value: float | None) -> str:
        if value is None:
            return "–"
        return numbers.share(value) if share else numbers.amount(value, money)

    return {
        "account": "" if one.account is None else names.label(one.account),
        "period": dates.period(one.period),
        "other": "" if one.other is None else dates.period(one.other),
        "value": amount(one.value),
        "usual": amount(one.usual),
        "low": amount(one.low),
        "high": amount(one.high),
        "amount": numbers.difference(one.amount, money),
    }


def _of_amounts(one: LedgerQuestion, places: dict[str, Any]) -> str:
    if one.kind == "round":
        return say(
            "{value} of the larger amounts of {account} are whole thousands, against {usual} of those of the others.",
            **places,
        )
    digit = numbers.whole(one.monthly or 0)
    if one.account is None:
        return say(
            "{value} of all amounts begin with {digit}, where {usual} do that grow freely.", digit=digit, **places
        )
    return say(
        "{value} of the amounts of {account} begin with {digit}, where {usual} do that grow freely.",
        digit=digit, **places,
    )  # fmt: skip


def _lasting(one: LedgerQuestion, places: dict[str, Any]) -> str:
    if one.kind == "begins":
        return say("{account} is first posted to in {period}, {value} a period since.", **places)
    if one.kind == "stops":
        return say("Nothing was posted to {account} after {period}, where {usual} a period was usual.", **places)
    if one.kind == "step":
        return say("{account} has been {value} a period since {period}, where {usual} was to be expected.", **places)
    rises = one.amount * (one.value or 0.0) >= 0
    if one.monthly is not None:
        pace = numbers.percent(100 * one.monthly)
        if rises:
            return say(
                "{account} grows by {pace} a period more than the accounts together: {value} in {other}, {amount} off "
                "their course.",
                pace=pace, **places,
            )  # fmt: skip
        return say(
            "{account} grows by {pace} a period less than the accounts together: {value} in {other}, {amount} off "
            "their course.",
            pace=pace, **places,
        )  # fmt: skip
    if rises:
        return say(
            "{account} has climbed since about {period}: {value} in {other}, {amount} off its course before.", **places
        )
    return say("{account} has sunk since about {period}: {value} in {other}, {amount} off its course before.", **places)


def _of_postings(one: LedgerQuestion, places: dict[str, Any]) -> str:
    size, n = one.postings or 0, numbers.whole(one.postings or 0)
    if one.kind == "repeated":
        return count(
            size,
            "{n} posting to {account} in {period} repeats another of the same day and amount: {amount}.",
            "{n} postings to {account} in {period} repeat others of the same day and amount: {amount}.",
            n=n, **places,
        )  # fmt: skip
    return count(
        size,
        "{n} posting to {account} in {period} has another sign than all the others ({value}) and cancels none.",
        "{n} postings to {account} in {period} have another sign than all the others ({value}) and cancel none.",
        n=n, **places,
    )  # fmt: skip


def asked(one: LedgerQuestion) -> str:
    """The question to put to those who keep the books."""
    places = {
        "account": "" if one.account is None else names.label(one.account),
        "period": dates.period(one.period),
        "other": "" if one.other is None else dates.period(one.other),
    }
    if one.kind == "movement" and one.amount * (one.usual or 1.0) >= 0:
        return say("What was posted to {account} in {period} that other periods do not have?", **places)
    if one.kind == "movement":
        return say("What is missing from {account} in {period}?", **places)
    if one.kind == "twice":
        return say("Was {account} posted twice in {period}, or for two periods?", **places)
    if one.kind == "repeated":
        return say("Are these events of their own, or was one posted twice?")
    if one.kind == "timing":
        return say("Does what stands in {other} belong to {period}?", **places)
    if one.kind == "missing":
        return say("Is the posting of {period} late, or was it made to another account?", **places)
    if one.kind in ("sign", "opposite"):
        return say("Was a sign turned, or does this take something back? What?")
    if one.kind == "step":
        return say("What changed in {period}: a price, a contract, or where it is posted?", **places)
    if one.kind == "drift":
        return say("What makes {account} part from its course: price, volume, or what is posted to it?", **places)
    if one.kind == "begins":
        return say("What is {account} for, and where was that posted before?", **places)
    if one.kind == "stops":
        return say("Has it ended, or where is it posted now?")
    if one.kind == "round":
        return say("Are these estimates, and are they turned back?")
    if one.kind == "digits":
        return say("How do these amounts come about: prices, limits, estimates?")
    return say("Which line is missing or wrong?")


def weight(one: LedgerQuestion) -> str:
    """Major, minor or small, as the reader says it."""
    if one.weight == "major":
        return say("major", "weight")
    return say("minor", "weight") if one.weight == "minor" else say("small", "weight")
