"""Text columns turned into the type that every one of their values has."""

from __future__ import annotations

from typing import Any

from .problems import Problem

_NUMBER = r"^[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d{1,3})?$"
_WHOLE = r"^[+-]?\d{1,18}$"
_LEADING_ZERO = r"^[+-]?0\d"
_LONG_DIGITS = r"^\d{16,}$"
_YES, _NO = ("true", "yes", "y"), ("false", "no", "n")
_ISO_DATE = r"^\d{4}-\d{2}-\d{2}$"
_ISO_MOMENT = r"^\d{4}-\d{2}-\d{2}[T ]\d{2}:\d{2}(?::\d{2}(?:\.\d{1,9})?)?(?:Z|[+-]\d{2}:?\d{2})?$"
_DOTTED = r"^\d{1,2}\.\d{1,2}\.\d{4}$"
_SLASHED = r"^\d{1,2}[/-]\d{1,2}[/-]\d{4}$"
_YEAR_FIRST = r"^\d{4}/\d{1,2}/\d{1,2}$"


def typed(name: str, values: Any) -> tuple[Any, Problem | None]:
    """The column (Arrow strings, empty ones missing) in its own type, and what was decided.

    A type is taken only when all values have it; otherwise the column stays text, whole.
    """
    import pyarrow as pa
    import pyarrow.compute as pc

    if len(values) == values.null_count:
        return values, None
    sample = values.slice(0, 200).drop_null()
    text = pc.utf8_trim_whitespace(values)
    first = sample[0].as_py().strip() if len(sample) else text.drop_null()[0].as_py()
    if first[:1] in "+-.0123456789":
        if _all(text, _NUMBER):
            if _any(text, _LEADING_ZERO) or _any(text, _LONG_DIGITS):
                return values, None  # identifiers such as 00123: noughts and long numbers must survive
            plain = pc.replace_substring_regex(text, r"^\+", "")
            return plain.cast(pa.int64() if _all(text, _WHOLE) else pa.float64()), None
        if _all(text, _ISO_DATE) or _all(text, _ISO_MOMENT):
            return _iso(text), None
        return _other_dates(name, values, text)
    if first.casefold() in _YES + _NO:
        lower = pc.utf8_lower(text)
        found = set(pc.unique(lower).drop_null().to_pylist())
        if found <= set(_YES + _NO) and len(found) == 2:
            told = pc.is_in(lower, value_set=pa.array(_YES))
            return pc.if_else(pc.is_null(lower), pa.scalar(None, pa.bool_()), told), None
    return values, None


def _iso(text: Any) -> Any:
    import pyarrow as pa
    import pyarrow.compute as pc

    try:
        return text.cast(pa.date32())
    except pa.ArrowInvalid:
        pass
    try:
        moments = pc.replace_substring_regex(text, r"(?:Z|[+-]\d{2}:?\d{2})$", "")
        return moments.cast(pa.timestamp("us"))
    except pa.ArrowInvalid:
        return text  # such as 2025-02-31: it stays text rather than losing a value


def _other_dates(name: str, values: Any, text: Any) -> tuple[Any, Problem | None]:
    import pyarrow as pa
    import pyarrow.compute as pc

    def parsed(pattern: str) -> Any:
        try:
            return pc.strptime(pc.replace_substring(text, "-", "/"), format=pattern, unit="s").cast(pa.date32())
        except pa.ArrowInvalid:
            return None

    def told(dates: Any, order: str) -> tuple[Any, Problem | None]:
        if dates is None:
            return values, None
        count = len(dates) - dates.null_count
        return dates, Problem(
            check="date order",
            severity="repair",
            column=name,
            rows=count,
            repair=f"read as {order}",
            message=f"The dates of {name!r} were read as {order}.",
        )

    if _all(text, _YEAR_FIRST):
        return told(parsed("%Y/%m/%d"), "year/month/day")
    if _all(text, _DOTTED):
        return told(parsed("%d.%m.%Y"), "day.month.year")
    if not _all(text, _SLASHED):
        return values, None
    day_first, month_first = _any(text, r"^(?:1[3-9]|[23]\d)[/-]"), _any(text, r"^\d{1,2}[/-](?:1[3-9]|[23]\d)[/-]")
    if day_first and not month_first:
        return told(parsed("%d/%m/%Y"), "day/month/year")
    if month_first and not day_first:
        return told(parsed("%m/%d/%Y"), "month/day/year")
    count = len(text) - text.null_count
    return values, Problem(
        check="date order",
        severity="question",
        column=name,
        rows=count,
        message=f"The dates of {name!r} could be day first or month first: nothing in the column tells. It was left "
        "as text; write the dates as 2025-08-14 to use them.",
    )


def _all(text: Any, pattern: str) -> bool:
    import pyarrow.compute as pc

    return bool(pc.all(pc.match_substring_regex(text, pattern)).as_py())


def _any(text: Any, pattern: str) -> bool:
    import pyarrow.compute as pc

    return bool(pc.any(pc.match_substring_regex(text, pattern)).as_py())
