"""The role of each column, guessed from its type, its values and its name."""

from __future__ import annotations

import re
from typing import Any

from .table import Column, Role

#: Words in a column's name that mark a number as one to average, never to add up.
_RATE_WORDS = frozenset(
    (
        "rate ratio pct percent percentage share avg average mean median score rating index age price delay duration "
        "temperature temp speed per height width depth lat lon latitude longitude level satisfaction utilisation "
        "utilization occupancy factor probability min mins minute minutes"
    ).split()
)
_KEY_WORDS = frozenset(
    (
        "id key code no number nr ref reference uuid guid serial index rownum row zip postcode postal plz phone tel "
        "telephone mobile fax iban"
    ).split()
)
_CATEGORY_WORDS = frozenset(
    "code zip postcode postal plz class grade zone type category group year month quarter week weekday day".split()
)
_YEAR_WORDS = frozenset("year yr jahr año année".split())
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
#: More labels than this make free text, unless rows are so many that each label is common.
MOST_LABELS = 300
_LABELS = 300


def describe(name: str, original: str, values: Any, borne: str | None = None) -> Column:
    """What is known of a column: type, role, unit (that its cells bore, or of its name), missing and distinct."""
    import pyarrow as pa
    import pyarrow.compute as pc

    rows, missing = len(values), values.null_count
    kind = _type_name(values.type)
    if kind == "number" and pa.types.is_floating(values.type):
        missing += int(pc.sum(pc.is_nan(values)).as_py() or 0)
    distinct = _distinct(values)
    if missing >= rows:
        kind = "empty"
    words = _words(name)
    role = _role(kind, words, values, rows, missing, distinct)
    adds_up = None
    if role is Role.MEASURE:
        whole_flag = kind == "number" and distinct <= 2 and set(pc.unique(values).drop_null().to_pylist()) <= {0, 1}
        adds_up = not (
            kind == "boolean" or whole_flag or _RATE_WORDS & set(words) or name.strip().endswith("%") or borne == "%"
        )
    unit = (
        borne or next((_UNITS[word] for word in reversed(words) if word in _UNITS), None)
        if role is Role.MEASURE
        else None
    )
    return Column(
        name=name,
        original=original,
        type=kind,
        role=role,
        adds_up=adds_up,
        unit=unit,
        missing=missing,
        distinct=distinct,
    )


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
        ranked = np.sort(values.drop_null().to_numpy())
        ranked = ranked[ranked == ranked]
        return int(np.count_nonzero(ranked[1:] != ranked[:-1])) + 1 if ranked.size else 0
    return int(pc.count_distinct(values, mode="only_valid").as_py())


def _role(kind: str, words: list[str], values: Any, rows: int, missing: int, distinct: int) -> Role:
    filled = rows - missing
    if kind == "empty" or (distinct <= 1 and rows > 1):
        return Role.IGNORED
    if kind in ("date", "datetime"):
        return Role.TIME
    if kind == "boolean":
        return Role.MEASURE
    if kind == "text":
        if filled >= 20 and distinct >= 0.95 * filled:
            return Role.KEY if _longest(values) <= 40 else Role.TEXT
        return Role.DIMENSION if distinct <= max(MOST_LABELS, filled // 200) and distinct <= filled / 2 else Role.TEXT
    if _is_whole(values):
        if set(words) & _YEAR_WORDS or (_looks_like_years(values) and 2 <= distinct <= 150):
            return Role.DIMENSION
        if filled >= 20 and distinct == filled and (set(words) & _KEY_WORDS or _is_sequence(values)):
            return Role.KEY
        if set(words) & _KEY_WORDS and distinct > 30:
            return Role.KEY
        if set(words) & _CATEGORY_WORDS and distinct <= 60:
            return Role.DIMENSION
    return Role.MEASURE


def _type_name(kind: Any) -> str:
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


def _words(name: str) -> list[str]:
    split = re.sub(r"(?<=[a-z0-9])(?=[A-Z])", "_", name)
    return [word for word in re.split(r"[^\w€$£%]+|_", split.casefold()) if word]


def _longest(values: Any) -> int:
    import pyarrow as pa
    import pyarrow.compute as pc

    if pa.types.is_dictionary(values.type):
        values = values.cast(values.type.value_type)
    return int(pc.max(pc.utf8_length(values)).as_py() or 0)


def _is_whole(values: Any) -> bool:
    import pyarrow as pa

    return bool(pa.types.is_integer(values.type))


def _looks_like_years(values: Any) -> bool:
    import pyarrow.compute as pc

    ends = pc.min_max(values).as_py()
    return ends["min"] is not None and ends["min"] >= 1900 and ends["max"] <= 2100


def _is_sequence(values: Any) -> bool:
    import pyarrow.compute as pc

    ends = pc.min_max(values).as_py()
    return bool(ends["max"] - ends["min"] + 1 == len(values))
