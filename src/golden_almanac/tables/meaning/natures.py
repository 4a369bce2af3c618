"""What kind of number a column holds: whether it may be added up, over what, and what else can be said of it.

A nature is found from the name, the unit and the values, in that order of belief; each comes with its reason, and a
person's word overrides it. "Semi-additive" measures (levels) and their last value of a period are as Kimball and Ross
have them ("The Data Warehouse Toolkit", 2013, chapter 4).
"""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from ...support.english_nouns import singular
from ...support.phrasing import marked, phrased
from .name_words import (
    AVERAGES,
    COUNTS,
    DURATIONS,
    ENTITIES,
    IDENTIFIERS,
    LEVELS,
    MONEY,
    MOVEMENTS,
    ONE_TIME,
    PER_WHAT,
    PHYSICAL,
    PRICES,
    QUOTED,
    RATIOS,
    RUNNING,
    SCORES,
    SHARES,
    STANDING,
    SURE_IDENTIFIERS,
    TIMES,
    WORKED,
    numbers_something,
    tells,
    words,
)


class Nature(StrEnum):
    """Kinds of numbers, by how they may be put together."""

    FLOW = "flow"
    COUNT = "count"
    STOCK = "stock"
    RUNNING = "running total"
    SHARE = "share"
    PRICE = "price"
    SCORE = "score"
    DURATION = "duration"
    READING = "reading"
    CODE = "code"


#: Numbers that are added up over rows: flows over everything, stocks over entities but not over time.
ADDED = frozenset({Nature.FLOW, Nature.COUNT, Nature.STOCK})
#: What each nature is, in a few words.
MEANINGS = {
    Nature.FLOW: marked("amount, added up"),
    Nature.COUNT: marked("count, added up"),
    Nature.STOCK: marked("level, not added up over time"),
    Nature.RUNNING: marked("running total, not added up"),
    Nature.SHARE: marked("share or rate, averaged"),
    Nature.PRICE: marked("price or index, averaged"),
    Nature.SCORE: marked("score, averaged"),
    Nature.DURATION: marked("duration, averaged"),
    Nature.READING: marked("reading, averaged"),
    Nature.CODE: marked("code, no number to reckon with"),
}
#: What names the end of a span of readings: "high temp", "min pressure".
_ENDS = frozenset("high low max min maximum minimum highest lowest peak".split())
_DATES = frozenset("date datum fecha".split())
#: A score has few steps; marks out of a hundred have more.
_STEPS, _MOST_MARK = 11, 100
#: Codes have at least so many values, or so many digits.
_LEAST_CODES, _LEAST_CODE = 12, 1000
#: Numbers from one or nought to so many, called an index, are running numbers.
_LEAST_INDEX = 200


#: Words for a rate of unemployment, where they are numbers like percent, and the highest one.
_UNEMPLOYED, _MOST_UNEMPLOYED = frozenset("unemp unem unempl unrate urate unemployed".split()), 60
_SEXES = frozenset("sex gender sexe sexo geschlecht genre genero".split())


@dataclass(frozen=True, slots=True, kw_only=True)
class Seen:
    """What is known of a column of numbers: whether they are whole, their ends, how many there are, how many of them
    differ, whether it is a flag of noughts and ones, its unit, and its standard deviation over its mean."""

    whole: bool
    low: float
    high: float
    filled: int
    distinct: int
    flag: bool = False
    unit: str | None = None
    spread: float | None = None


@dataclass(frozen=True, slots=True)
class Found:
    """A nature and why it was taken for that."""

    nature: Nature
    because: str


def nature_of(name: str, seen: Seen) -> Found:
    """The nature of a column of numbers."""
    said = words(name)
    for rule in _RULES:
        found = rule(said, seen)
        if found is not None:
            return found
    word = tells(said, MONEY)
    if word is not None:
        return Found(Nature.FLOW, named(word))
    return Found(Nature.FLOW, phrased("numbers that nothing marks as averages"))


def contradiction(nature: Nature, low: float, high: float) -> str | None:
    """Why numbers between these ends cannot be of a nature; None where they can."""
    if nature is Nature.SHARE and (low < -1000 or high > 1000):
        return f"its values reach from {low:g} to {high:g}, and no share does"
    if nature in (Nature.COUNT, Nature.CODE) and low < 0:
        return f"its least value is {low:g}, and there is no such {nature}"
    return None


def named(word: str) -> str:
    return phrased("its name says {word}", word=repr(word))


def _flag(said: list[str], seen: Seen) -> Found | None:
    # Which of the two sexes nought is nobody knows: they are labels.
    labels = bool(_SEXES & set(said))
    return Found(Nature.SHARE, phrased("it says yes or no")) if seen.flag and not labels else None


def _counted(said: list[str], seen: Seen) -> Found | None:
    if numbers_something(said) and seen.whole and seen.low >= 0:
        return Found(Nature.COUNT, phrased("its name says how many"))
    return None


def _code(said: list[str], seen: Seen) -> Found | None:
    exact = any(tells([word], IDENTIFIERS) == word for word in said)
    if not seen.whole or seen.low < 0 or tells(said, MONEY) or tells(said, AVERAGES):
        return None
    if not exact and tells(said, COUNTS):
        return None
    many = seen.distinct >= _LEAST_CODES or seen.high >= _LEAST_CODE
    sure = next((one for one in said[-1:] if one in SURE_IDENTIFIERS), None)
    if sure is not None and not tells(said, COUNTS):
        return Found(Nature.CODE, named(sure))
    if said[-1:] == ["index"] and seen.low in (0, 1) and seen.high >= _LEAST_INDEX and many:
        # A price index begins at a hundred; what begins at one is numbered.
        return Found(Nature.CODE, named("index"))
    # A number called a date, which nothing could read as one, is a count of days from nobody knows when.
    word = tells(said, IDENTIFIERS) or next((one for one in said[-1:] if one in _DATES), None)
    if word is not None and many:
        return Found(Nature.CODE, named(word))
    entity = next((one for one in said[-1:] if one in ENTITIES), None)
    numbered = len(said) == 1 and seen.low == 1 and seen.high == seen.distinct >= 3 and seen.filled >= 3 * seen.distinct
    if entity is not None and (many or numbered):
        return Found(Nature.CODE, named(entity))
    return None


def _moment(said: list[str], seen: Seen) -> Found | None:
    """Where a row lies in time, counted from some beginning: the day of a trial, the week of a purchase."""
    if not seen.whole or seen.low < 0:
        return None
    if len(said) < 2:
        # From one on without a gap, each on several rows: periods of a beginning that nobody tells.
        running = seen.low in (0, 1) and seen.high - seen.low + 1 == seen.distinct and seen.filled >= 3 * seen.distinct
        counted = running and seen.distinct >= _LEAST_CODES and said[0] in ("time", "t", "period", "wave", "round")
        return Found(Nature.CODE, named(said[0])) if counted else None
    if any(tells(said, known) for known in (MONEY, COUNTS, AVERAGES, DURATIONS, PRICES, SCORES)):
        return None
    word = next((one for one in (said[0], said[-1]) if one in ONE_TIME), None)
    if word == said[0] != said[-1] and not {"of", "of_", "de", "du", "der"} & set(said):
        word = None
    if word is None:
        word = next((one for one in said if re.fullmatch(r"(day|week|month|quarter)of\w*", one)), None)
    return None if word is None else Found(Nature.CODE, named(word))


def _running(said: list[str], seen: Seen) -> Found | None:
    word = tells(said, RUNNING) or ("to date" if {"to", "date"} <= set(said) else None)
    return None if word is None or tells(said, SHARES) else Found(Nature.RUNNING, named(word))


def _share(said: list[str], seen: Seen) -> Found | None:
    if seen.unit == "%":
        return Found(Nature.SHARE, phrased("its unit is percent"))
    if any(
        between == "to" and {one, other} <= RATIOS
        for one, between, other in zip(said, said[1:], said[2:], strict=False)
    ):
        return Found(Nature.PRICE, named("to"))
    word = tells(said, SHARES) or next((one for one in said if one in _UNEMPLOYED and _in_percent(seen)), None)
    if word == "rate" and set(said) & PER_WHAT:
        return Found(Nature.PRICE, named(word))
    if word is not None and max(abs(seen.low), abs(seen.high)) <= 10_000:
        return Found(Nature.SHARE, named(word))
    return None


def _in_percent(seen: Seen) -> bool:
    """Whether numbers look like percent that no unit says: 4.7, 12.5."""
    return not seen.whole and seen.low >= 0 and seen.high <= _MOST_UNEMPLOYED


def _average(said: list[str], seen: Seen) -> Found | None:
    word = tells(said, AVERAGES)
    if word is None and len(said) > 1 and said[0] in _ENDS and singular(said[-1]) == said[-1]:
        # The highest or lowest of a day, which is none of it added up; high-risk patients are counted.
        word = None if tells(said, MONEY) or tells(said, COUNTS) else said[0]
    return None if word is None else Found(Nature.READING, named(word))


def _score(said: list[str], seen: Seen) -> Found | None:
    word = tells(said, SCORES)
    few = seen.whole and seen.distinct <= _STEPS and seen.low >= -10 and seen.high <= 10
    if word is not None:
        # Points without end are no marks, but they are averaged like them.
        marks = few or 0 <= seen.low <= seen.high <= _MOST_MARK
        return Found(Nature.SCORE if marks else Nature.READING, named(word))
    question = any(_is_question(one) for one in said)
    if question and few and seen.distinct >= 3:
        return Found(
            Nature.SCORE, phrased("answers on {n} steps, from {low} to {high}", n=seen.distinct, **_ends(seen))
        )
    return None


def _is_question(word: str) -> bool:
    """Whether a word names a question of a survey: q7, frage3, item12."""
    head = word.rstrip("0123456789")
    return head in ("q", "frage", "item", "question", "pregunta", "var") and word != head


def _price(said: list[str], seen: Seen) -> Found | None:
    word = tells(said, PRICES) or (said[0] if said and set(said) <= QUOTED else None)
    if word is not None:
        return Found(Nature.PRICE, named(word))
    if {"per", "je", "pro", "par", "por"} & set(said[1:]) or any(
        re.search(r"per_?cap(ita)?$|[a-z]{3}pc$|^[a-z]{0,4}prc$", one) for one in said
    ):
        return Found(Nature.PRICE, phrased("its name says per what"))
    return None


#: Units of time that cells may bear, and no hours: those are as often work that is added up.
_OF_TIME = ("s", "min")


def _duration(said: list[str], seen: Seen) -> Found | None:
    word = tells(said, DURATIONS)
    if word is None and seen.unit in _OF_TIME and not WORKED & set(said):
        return Found(Nature.DURATION, phrased("its cells say how long it took"))
    if word is None and len(said) > 1 and not WORKED & set(said):
        # Days of something are how long it took; hours worked are an amount of work.
        word = next((one for one in said if one in TIMES), None)
    if word is None and len(said) > 1 and said[0] == "time" and said[1] in ("to", "until", "since", "in", "between"):
        word = said[0]
    if word is None and said and said[-1] == "time":
        word = said[-1]
    return None if word is None else Found(Nature.DURATION, named(word))


#: What homes and cars have a few of each.
_OF_HOMES = frozenset(
    "beds bedrooms bedroom bedrms bathrooms bathroom bathrms baths toilets floors storeys stories doors fireplaces "
    "garages schlafzimmer badezimmer dormitorios habitaciones chambres".split()
)
_MOST_ROOMS = 20
_FOOTAGE = frozenset("sqft sqm footage wohnflache".split())


def _reading(said: list[str], seen: Seen) -> Found | None:
    word = tells(said, PHYSICAL)
    if word is None and seen.whole and seen.low >= 0 and seen.high <= _MOST_ROOMS:
        # So many has a home, or a car; nobody adds them up over what is sold.
        word = next((one for one in said if one in _OF_HOMES), None)
    if word is None and ({"sq", "ft"} <= set(said) or {"sq", "m"} <= set(said) or _FOOTAGE & set(said)):
        word = said[0]
    return None if word is None else Found(Nature.READING, named(word))


def _stock(said: list[str], seen: Seen) -> Found | None:
    word = tells(said, LEVELS)
    if word is None and {"on", "hand"} <= set(said):
        word = "hand"
    if word is None and len(said) > 1 and said[0] in STANDING and seen.whole and seen.low >= 0:
        word = said[0]
    if word is None or MOVEMENTS & set(said):
        return None
    return Found(Nature.STOCK, named(word))


def _count(said: list[str], seen: Seen) -> Found | None:
    word = tells(said, COUNTS)
    return Found(Nature.COUNT, named(word)) if word is not None and seen.whole and seen.low >= 0 else None


def _fraction(said: list[str], seen: Seen) -> Found | None:
    if tells(said, MONEY) or seen.whole or seen.low < 0 or seen.high > 1 or seen.filled < 20:
        return None
    return Found(Nature.SHARE, phrased("all its values lie between 0 and 1"))


def _ends(seen: Seen) -> dict[str, Any]:
    return {"low": f"{seen.low:g}", "high": f"{seen.high:g}"}


#: In order of belief.
_RULES: Sequence[Callable[[list[str], Seen], Found | None]] = (
    _flag, _counted, _moment, _running, _share, _score, _code, _average, _price, _stock, _duration, _reading, _count,
    _fraction,
)  # fmt: skip
