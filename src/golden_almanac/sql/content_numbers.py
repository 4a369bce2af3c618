"""A number for each row, worked out from what it holds, in arithmetic that every engine does alike.

Rows are drawn by it, so that the same rows are drawn from a file, from a database and from a cluster, whatever their
order. It is a polynomial of second degree, modulo the prime 2**31 − 1, of the row's numbers (in hundredths) and days
(Carter and Wegman, "Universal classes of hash functions", 1979, for the linear part); only whole numbers below 2**63
are worked with, which no engine rounds. Texts alone are hashed by MD5, which all engines have.
"""

from __future__ import annotations

from collections.abc import Sequence

from .expressions import quote_name

#: Numbers are below this.
PRIME = 2**31 - 1
#: Columns that a row is known by, at most.
_MOST = 6
_BY = (1_284_865_837, 1_181_783_497, 742_938_285, 950_706_376, 1_226_874_159, 62_089_911)
_ELSE = (630_360_016, 397_204_094, 1_343_714_438, 764_261_123, 1_580_652_139, 227_573_941)
_SQUARE, _LINE, _MISSING, _BELOW = 1_078_318_381, 1_203_248_318, 715_827_883, 536_870_909


def content_number(columns: Sequence[tuple[str, str]]) -> str:
    """SQL for the number of a row, from 0 to `PRIME` - 1; `columns` are names and types, as the table has them."""
    linear = _linear(columns, _BY)
    return f"(({linear}) * (({linear}) * {_SQUARE} % {PRIME} + {_LINE})) % {PRIME}"


def row_number(columns: Sequence[tuple[str, str]]) -> str:
    """SQL for a number of 62 bits by which a row is known where it has none of its own; equal rows share it. Its order
    is that of `content_number`."""
    return f"({content_number(columns)}) * {2**31} + ({_linear(columns, _ELSE)})"


def rows_number(columns: Sequence[tuple[str, str]]) -> str:
    """SQL for a number that tells of all columns of a row, from 0 to `PRIME` - 1. Added up over rows it tells whether
    they are the same rows, in any order and on any engine: numbers with their sign to a millionth (to a hundredth from
    a thousand million on), moments to the minute, whole texts."""
    known = [_exact_term(name, kind) for name, kind in columns if kind in ("number", "date", "datetime")]
    texts = [name for name, kind in columns if kind not in ("number", "date", "datetime")]
    # Powers of a factor are other factors for every place.
    terms = [f"({term}) * {pow(_BY[0], place, PRIME)} % {PRIME}" for place, term in enumerate(known, start=1)]
    terms += [f"{_of_texts(texts)} * {_ELSE[0]} % {PRIME}"] if texts else []
    linear = f"(({' + '.join(terms)}) % {PRIME})"
    return f"({linear} * ({linear} * {_SQUARE} % {PRIME} + {_LINE})) % {PRIME}"


def _linear(columns: Sequence[tuple[str, str]], factors: Sequence[int]) -> str:
    terms = [_term(name, kind) for name, kind in _chosen(columns)]
    if not terms:
        return _of_texts([name for name, kind in columns if kind == "text"][:3])
    told = " + ".join(f"({term}) * {factor} % {PRIME}" for term, factor in zip(terms, factors, strict=False))
    return f"({told}) % {PRIME}"


def _chosen(columns: Sequence[tuple[str, str]]) -> list[tuple[str, str]]:
    """The columns that vary most, as far as their types tell: numbers, then days; each in the table's order."""
    numbers = [one for one in columns if one[1] == "number"]
    days = [one for one in columns if one[1] in ("date", "datetime")]
    return [*days[:1], *numbers[: _MOST - len(days[:1])]]


def _term(name: str, kind: str) -> str:
    quoted = quote_name(name)
    if kind == "number":
        size = f"abs(CAST({quoted} AS DOUBLE))"
        # The half keeps hundredths that doubles hold a little below themselves where they are.
        whole = f"CAST(floor({size} * 100.0 + 0.5) AS BIGINT) % {PRIME}"
        return f"CASE WHEN {quoted} IS NULL THEN {_MISSING} WHEN {size} < 1e15 THEN {whole} ELSE 1 END"
    parts = " + ".join(
        f"CAST(EXTRACT({part} FROM {quoted}) AS BIGINT) * {times}"
        for part, times in (("year", 10_000), ("month", 100), ("day", 1))
    )
    return f"CASE WHEN {quoted} IS NULL THEN {_MISSING} ELSE {parts} END"


def _exact_term(name: str, kind: str) -> str:
    """A number for a cell that tells more of it than is needed to draw rows."""
    quoted = quote_name(name)
    if kind == "number":
        size = f"abs(CAST({quoted} AS DOUBLE))"
        fine = f"WHEN {size} < 1e9 THEN CAST(floor({size} * 1000000.0 + 0.5) AS BIGINT) % {PRIME}"
        own = f"CASE WHEN {quoted} IS NULL THEN {_MISSING} {fine} ELSE {_term(name, kind)} END"
        return f"({own} + CASE WHEN {quoted} < 0 THEN {_BELOW} ELSE 0 END) % {PRIME}"
    if kind == "date":
        return _term(name, kind)
    clock = f"CAST(EXTRACT(hour FROM {quoted}) AS BIGINT) * 60 + CAST(EXTRACT(minute FROM {quoted}) AS BIGINT)"
    return f"(({_term(name, kind)}) * 1440 + CASE WHEN {quoted} IS NULL THEN 0 ELSE {clock} END) % {PRIME}"


def _of_texts(names: Sequence[str]) -> str:
    """Seven digits of the MD5 of a few texts."""
    if not names:
        return "1"
    text = " || '|' || ".join(f"coalesce(CAST({quote_name(name)} AS VARCHAR), '~')" for name in names)
    digits = [
        f"(instr('0123456789abcdef', substr(md5({text}), {place}, 1)) - 1) * {16 ** (7 - place)}"
        for place in range(1, 8)
    ]
    return f"CAST({' + '.join(digits)} AS BIGINT)"
