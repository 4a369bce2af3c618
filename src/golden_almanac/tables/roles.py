"""The role of each column, guessed from its type, its values and its name."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from ..engine.arrow_arrays import floats, wholes
from ..support.phrasing import phrased
from .meaning.name_words import COUNTS, IDENTIFIERS, MONEY, tells, words
from .meaning.natures import ADDED, Found, Nature, Seen, nature_of
from .table import Column, Role

#: Words that mark whole numbers as labels: classes, zones.
_CATEGORY_WORDS = frozenset(
    "code zip postcode postal plz class grade zone type category group year month quarter week weekday day line "
    "lane gate precinct ward borough parish constituency tract revier wahlkreis kreis barrio arrondissement "
    "round stint inning lap runde spieltag matchday ronda manche leg "
    "hour heure hora stunde uhrzeit dow wday "
    "floor shift track platform machine dock terminal block linie gleis halle tor etage schicht maschine gruppe klasse "
    "state city district county country region province school industry sector occupation race sex gender status team "
    "party land stadt bezirk provincia ciudad distrito ville "
    "zona linea planta turno grupo clase ligne groupe classe equipe quai voie".split()
)
_YEAR_WORDS = frozenset("year yr jahr annee ano anio".split())
_UNITS = {
    "min": "min",
    "mins": "min",
    "minutes": "min",
    "hours": "h",
    "hrs": "h",
    "days": "days",
    "sec": "s",
    "pct": "%",
    "percent": "%",
    "kg": "kg",
    "km": "km",
    "litres": "l",
    "kwh": "kWh",
    "%": "%",
    "eur": "EUR",
    "usd": "USD",
    "gbp": "GBP",
    "chf": "CHF",
    "jpy": "JPY",
    "€": "EUR",
    "$": "USD",
    "£": "GBP",
}
_MONEY_UNITS = frozenset("EUR USD GBP CHF JPY".split())
#: What a name says beside a currency where its numbers are thousands or millions of it.
_SCALED = re.compile(
    r"['’]?000|(?<![^\W_])(?:k|th|tsd|thousands?|m|mn|mio|millions?|bn|mrd)(?![^\W_])|[€$£](?:k|m|bn)", re.IGNORECASE
)
#: More codes than this tell rows apart, fewer are labels: branch 7, line 12.
_MOST_CODES = 60
#: More labels than this make free text, unless rows are so many that each label is common.
MOST_LABELS = 300
_LABELS = 300


@dataclass(frozen=True, slots=True, kw_only=True)
class Facts:
    """What is known of a column's values, wherever they are: how many, how many of them missing and different, the
    least and the greatest number; whether its numbers are whole; the length of its longest text."""

    kind: str
    whole: bool
    rows: int
    missing: int
    distinct: int
    low: Any = None
    high: Any = None
    longest: Callable[[], int] = lambda: 0


def describe(name: str, original: str, values: Any, borne: str | None = None) -> Column:
    """What is known of a column: type, role, unit (that its cells bore, or of its name), missing and distinct."""
    import pyarrow as pa
    import pyarrow.compute as pc

    missing = values.null_count
    kind = type_name(values.type)
    if kind == "number" and pa.types.is_floating(values.type):
        missing += int(pc.sum(pc.is_nan(values)).as_py() or 0)
    ends = pc.min_max(values).as_py() if kind == "number" else {"min": None, "max": None}
    facts = Facts(
        kind=kind,
        whole=_whole(values, kind),
        rows=len(values),
        missing=missing,
        distinct=_distinct(values),
        low=ends["min"],
        high=ends["max"],
        longest=lambda: _longest(values),
    )
    return described(name, original, facts, borne)


def _whole(values: Any, kind: str) -> bool:
    """Whether numbers are whole, whatever type they were stored in: some sources keep them as doubles."""
    import numpy as np
    import pyarrow as pa

    if kind != "number" or pa.types.is_integer(values.type):
        return kind == "number"
    if pa.types.is_decimal(values.type):
        return bool(values.type.scale == 0)
    for part in (values.slice(0, 1000), values):
        numbers = floats(part.drop_null())
        numbers = numbers[np.isfinite(numbers)]
        if not np.array_equal(numbers, np.floor(numbers)):
            return False
    return True


def described(name: str, original: str, facts: Facts, borne: str | None = None) -> Column:
    """As `describe`, from the facts."""
    kind = "empty" if facts.missing >= facts.rows else facts.kind
    said = words(name)
    found = _nature(name, kind, facts, borne or ("%" if name.strip().endswith("%") else None))
    role = _role(kind, said, facts, found)
    adds_up = None
    unit = None
    if role is Role.MEASURE:
        assert found is not None
        adds_up = found.nature in ADDED
        unit = borne or next((_UNITS[word] for word in reversed(said) if word in _UNITS), None)
        if unit in _MONEY_UNITS and borne is None and _SCALED.search(name):
            # Revenue in kEUR, or EUR '000: 451 are no 451 euros.
            unit = None
        # "pct_discount" from 0 to 0.4 may be 40 percent or less than a half: it is told as it stands.
        if unit == "%" and borne is None and "%" not in name and kind == "number" and max(-facts.low, facts.high) <= 1:
            unit = None
    return Column(
        name=name,
        original=original,
        type=kind,
        role=role,
        adds_up=adds_up,
        unit=unit,
        missing=facts.missing,
        distinct=facts.distinct,
        nature="" if found is None or role not in (Role.MEASURE, Role.KEY, Role.DIMENSION) else found.nature.value,
        because="" if found is None else found.because,
    )


def _nature(name: str, kind: str, facts: Facts, unit: str | None) -> Found | None:
    """What kind of numbers a column holds; None for one that holds none."""
    if kind == "boolean":
        return Found(Nature.SHARE, phrased("it says yes or no"))
    if kind != "number" or facts.low is None:
        return None
    low, high = float(facts.low), float(facts.high)
    seen = Seen(
        whole=facts.whole,
        low=low,
        high=high,
        filled=facts.rows - facts.missing,
        distinct=facts.distinct,
        flag=facts.distinct <= 2 and {low, high} <= {0.0, 1.0},
        unit=unit,
    )
    return nature_of(name, seen)


def _distinct(values: Any) -> int:
    """How many different values there are; by sorting, since hashing a long column takes ten times its memory."""
    import numpy as np
    import pyarrow as pa
    import pyarrow.compute as pc

    if pa.types.is_dictionary(values.type):
        return len(pc.unique(values).drop_null()) if len(values) else 0
    if pa.types.is_date32(values.type):
        values = values.cast(pa.int32())
    elif pa.types.is_timestamp(values.type):
        values = values.cast(pa.int64())
    if pa.types.is_integer(values.type) or pa.types.is_floating(values.type):
        ranked = np.sort(wholes(values.drop_null()) if pa.types.is_integer(values.type) else floats(values))
        ranked = ranked[ranked == ranked]
        return int(np.count_nonzero(ranked[1:] != ranked[:-1])) + 1 if ranked.size else 0
    return int(pc.count_distinct(values, mode="only_valid").as_py())


def _role(kind: str, said: list[str], facts: Facts, found: Found | None) -> Role:
    rows, distinct = facts.rows, facts.distinct
    filled = rows - facts.missing
    if kind == "empty" or (distinct <= 1 and rows > 1):
        return Role.IGNORED
    if kind in ("date", "datetime"):
        return Role.TIME
    if kind == "boolean":
        return Role.MEASURE
    if kind == "text":
        if filled >= 20 and distinct >= 0.95 * filled:
            return Role.KEY if facts.longest() <= 40 else Role.TEXT
        return Role.DIMENSION if distinct <= max(MOST_LABELS, filled // 200) and distinct <= filled / 2 else Role.TEXT
    assert found is not None
    if facts.whole and found.nature is not Nature.SHARE:
        years = facts.low is not None and facts.low >= 1900 and facts.high <= 2100
        if set(said) & _YEAR_WORDS or (years and 2 <= distinct <= 150 and found.nature in (Nature.FLOW, Nature.CODE)):
            return Role.DIMENSION
        amount = tells(said, MONEY) or tells(said, COUNTS)
        sequence = not amount and facts.low is not None and facts.high - facts.low + 1 == rows
        if filled >= 20 and distinct == filled and (found.nature is Nature.CODE or sequence):
            return Role.KEY
        if found.nature is Nature.CODE:
            return Role.KEY if distinct > _MOST_CODES else Role.DIMENSION
        # The population of a state is no state, the weight of a class no class; a class, a gate or an hour is one.
        of_class = found.nature in (Nature.FLOW, Nature.CODE) or (
            found.nature is Nature.READING and set(said[-1:]) & _CATEGORY_WORDS
        )
        if of_class and set(said) & _CATEGORY_WORDS and distinct <= 60 and found.nature is not Nature.SCORE:
            return Role.DIMENSION
    return Role.MEASURE


def may_be_codes(column: Column) -> bool:
    """Whether numbers with a few texts among them may be labels: bus lines 1 to 25 and N1."""
    said = words(column.name)
    return column.distinct <= _MOST_CODES or bool(set(said) & _CATEGORY_WORDS or tells(said, IDENTIFIERS))


def type_name(kind: Any) -> str:
    """number, date, datetime, boolean or text, for an Arrow type."""
    import pyarrow as pa

    if pa.types.is_dictionary(kind):
        kind = kind.value_type
    if pa.types.is_boolean(kind):
        return "boolean"
    if pa.types.is_integer(kind) or pa.types.is_floating(kind) or pa.types.is_decimal(kind):
        return "number"
    if pa.types.is_date(kind):
        return "date"
    return "datetime" if pa.types.is_timestamp(kind) else "text"


def _longest(values: Any) -> int:
    import pyarrow as pa
    import pyarrow.compute as pc

    if pa.types.is_dictionary(values.type):
        values = values.cast(values.type.value_type)
    return int(pc.max(pc.utf8_length(values)).as_py() or 0)
