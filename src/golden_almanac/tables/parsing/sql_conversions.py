"""Texts as numbers and dates in SQL: forms tried until one gives what reading the same texts gave."""

from __future__ import annotations

from typing import Any

from ...engine import embedded_engine

_NUMBERS = (
    "TRY_CAST(x AS {kind})",
    "TRY_CAST(replace(x, ',', '') AS {kind})",
    "TRY_CAST(replace(replace(x, '.', ''), ',', '.') AS {kind})",
    "TRY_CAST(replace(replace(x, ' ', ''), ',', '.') AS {kind})",
    "TRY_CAST(regexp_replace(x, '[^0-9.eE+-]', '', 'g') AS {kind})",
    "TRY_CAST(replace(regexp_replace(x, '[^0-9,eE+-]', '', 'g'), ',', '.') AS {kind})",
)


def _spelled(letter: str) -> str:
    """The number before a unit: 2 of "2h 15m"."""
    number = rf"regexp_extract(lower(x), '(\d+(\.\d+)?)\s*{letter}', 1)"
    return f"coalesce(TRY_CAST(nullif({number}, '') AS DOUBLE), 0)"


def _after_days(place: int) -> str:
    """A part of the time behind the days: "0 days 00:02:31"."""
    return f"TRY_CAST(split_part(regexp_extract(x, '[0-9:.]+$'), ':', {place}) AS DOUBLE)"


#: Durations, as numbers of so many seconds.
_PIECES = tuple(f"TRY_CAST(split_part(x, ':', {place}) AS DOUBLE)" for place in (1, 2, 3))
_LASTING = (
    (
        f"CASE WHEN length(x) - length(replace(x, ':', '')) = 1 THEN ({_PIECES[0]} * 60 + {_PIECES[1]}) / {{size}}"
        f" ELSE ({_PIECES[0]} * 3600 + {_PIECES[1]} * 60 + {_PIECES[2]}) / {{size}} END"
    ),
    f"({_spelled('d')} * 86400 + {_spelled('h')} * 3600 + {_spelled('m')} * 60 + {_spelled('s')}) / {{size}}",
    f"({_spelled('d')} * 86400 + {_after_days(1)} * 3600 + {_after_days(2)} * 60 + {_after_days(3)}) / {{size}}",
    f"({_PIECES[0]} * 3600 + {_PIECES[1]} * 60) / {{size}}",
    f"({_PIECES[0]} * 60 + {_PIECES[1]}) / {{size}}",
)
_DAYS = ("%d.%m.%Y", "%d/%m/%Y", "%m/%d/%Y", "%d-%m-%Y", "%m-%d-%Y", "%Y/%m/%d", "%Y%m%d", "%d.%m.%y", "%d/%m/%y",
         "%m/%d/%y", "%d %b %Y", "%d %B %Y", "%b %d, %Y", "%B %d, %Y")  # fmt: skip
_TIMES = ("", " %H:%M", " %H:%M:%S", "T%H:%M:%S")
_FLAGS = (("yes", "no"), ("true", "false"), ("y", "n"), ("t", "f"), ("1", "0"), ("ja", "nein"), ("oui", "non"),
          ("sí", "no"), ("si", "no"))  # fmt: skip


def conversion(texts: Any, wanted: Any) -> str | None:
    """SQL over `x` that turns the texts (Arrow) into the values wanted (Arrow); None where no form known does."""
    import pyarrow as pa

    if pa.types.is_string(wanted.type) or pa.types.is_dictionary(wanted.type):
        return "x"
    beside = pa.table({"x": texts.cast(pa.string()), "w": wanted})
    for sql in _forms(wanted.type):
        found = embedded_engine.query(
            f"SELECT bool_and(({sql}) IS NOT DISTINCT FROM w) AS same FROM source", {"source": beside}
        )
        if found.column("same")[0].as_py():
            return sql
    return None


def _forms(kind: Any) -> list[str]:
    import pyarrow as pa

    if pa.types.is_boolean(kind):
        return [f"CASE lower(trim(x)) WHEN '{yes}' THEN TRUE WHEN '{no}' THEN FALSE END" for yes, no in _FLAGS]
    if pa.types.is_integer(kind):
        return [form.format(kind="BIGINT") for form in _NUMBERS]
    if pa.types.is_floating(kind):
        lasting = [form.format(size=size) for form in _LASTING for size in (1.0, 60.0, 3600.0)]
        return [*(form.format(kind="DOUBLE") for form in _NUMBERS), *lasting]
    if pa.types.is_date(kind):
        texts = [f"CAST(try_strptime(x, '{day}') AS DATE)" for day in _DAYS]
        return ["TRY_CAST(x AS DATE)", *texts, "CAST(TRY_CAST(x AS TIMESTAMP) AS DATE)"]
    if pa.types.is_timestamp(kind):
        return ["TRY_CAST(x AS TIMESTAMP)", *(f"try_strptime(x, '{day}{time}')" for day in _DAYS for time in _TIMES)]
    return []
