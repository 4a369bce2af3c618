"""Conditions as they are said beside a figure: "delay > 30", "channel: Web or Agents"."""

from __future__ import annotations

import re

from ..analysis.conditions import Condition
from . import dates, names, numbers
from .languages import joined, say, statement

#: Numbers that may be years, which have no mark between the thousands.
_YEARS = (1900, 2100)


def condition_words(one: Condition) -> str:
    """A comparison in words and signs; what is none as its SQL."""
    if not one.column:
        return _of_calendar(one.sql) or one.sql
    who = names.column(one.column)
    if one.sign in ("missing", "known"):
        return say("{who} is missing", who=who) if one.sign == "missing" else say("{who} is there", who=who)
    values = [_value(value) for value in one.values]
    if one.sign == "between":
        return say("{who} from {low} to {high}", who=who, low=values[0], high=values[1])
    if one.sign == "=":
        return statement((who, ": ", values[0]))
    if one.sign in ("in", "not in"):
        listed = joined(", ", values)
        return (
            say("{who} not {labels}", who=who, labels=listed)
            if one.sign == "not in"
            else statement((who, ": ", listed))
        )
    return statement((who, " ", one.sign, " ", values[0]))


def _of_calendar(sql: str) -> str | None:
    """A condition on the weekday or the month, as it is said: on Saturdays, in December; None for another."""
    found = _CALENDAR.fullmatch(sql.strip())
    if found is None:
        return None
    listed = [int(number) for number in re.findall(r"\d+", found["numbers"])]
    weekly = found["part"].upper() == "ISODOW"
    known = [f"{day}s" for day in dates.DAYS] if weekly else dates.MONTHS
    if not all(1 <= number <= len(known) for number in listed):
        return None
    return dates.in_cycle([known[number - 1] for number in listed], "week" if weekly else "year")


_CALENDAR = re.compile(r"(?P<part>ISODOW|MONTH)\([^()]*\) (?:=|IN) (?P<numbers>\d+|\([\d, ]+\))", re.IGNORECASE)


def _value(value: object) -> str:
    if isinstance(value, bool):
        return say("yes") if value else say("no")
    if isinstance(value, float) and value.is_integer() and _YEARS[0] <= value <= _YEARS[1]:
        return str(int(value))
    return numbers.figure(value, 12) if isinstance(value, float) else names.label(str(value))
