"""Columns that say what the number beside them is of: a long table of indicators, whose values are never added up."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .. import Role, Table
from .name_words import words

#: Names of columns that say what a number is, whatever the numbers are.
_SAYS_WHAT = frozenset(
    "indicator variable metric measure kpi statistic indikator kennzahl messgrosse indicador metrica indicateur "
    "mesure".split()
)
#: Names of columns that may say it, where the numbers are of sizes that nothing of one kind has.
_MAY_SAY = frozenset(
    "category item type element series description kategorie art serie categoria tipo categorie".split()
)
#: Names of numbers that leave open what they are of.
_NEUTRAL = frozenset("value values val obs observation number figure wert valor valeur zahl cifra chiffre".split())
_MOST_LABELS = 60
#: How many times the usual size of one label is that of another where they are of several kinds, and how much of the
#: differences between sizes the labels make.
_APART, _EXPLAINED = 1000.0, 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class SeveralThings:
    """A column that says what the only number is of; `read` is the one of most rows, and of those the largest."""

    column: str
    labels: tuple[str, ...]
    read: str

    @property
    def others(self) -> tuple[str, ...]:
        return tuple(label for label in self.labels if label != self.read)


def several_things_of(table: Table) -> SeveralThings | None:
    """That column, where a table's numbers, which no name tells apart, are of several things."""
    numbers = table.with_role(Role.MEASURE)
    if not numbers or any(one.type != "number" for one in numbers) or not table.store.abilities.in_order:
        return None
    if not all({word.rstrip("0123456789") for word in words(one.name)} - {""} <= _NEUTRAL for one in numbers):
        # Revenue is revenue, be it of pencils or of yachts.
        return None
    for column in table.with_role(Role.DIMENSION):
        said = set(words(column.name)) - {"name"}
        if column.type != "text" or not 2 <= column.distinct <= _MOST_LABELS or not said & (_SAYS_WHAT | _MAY_SAY):
            continue
        codes, labels = table.codes(column.name)
        values = np.abs(table.numbers(numbers[0].name))
        known = np.isfinite(values) & (values > 0) & (codes >= 0)
        rows = np.bincount(codes[known], minlength=len(labels))
        usual = np.array(
            [float(np.median(values[known & (codes == code)])) if rows[code] else np.nan for code in range(len(labels))]
        )
        told = [code for code, label in enumerate(labels) if label is not None and rows[code]]
        if len(told) < 2 or not (said <= _SAYS_WHAT or _of_other_sizes(values[known], codes[known], usual)):
            continue
        first = max(told, key=lambda code: (rows[code], usual[code], str(labels[code])))
        return SeveralThings(
            column=column.name, labels=tuple(str(labels[code]) for code in told), read=str(labels[first])
        )
    return None


def _of_other_sizes(values: np.ndarray, codes: np.ndarray, usual: np.ndarray) -> bool:
    """Whether labels are of sizes so far apart that their sum is that of the largest alone."""
    ends = usual[np.isfinite(usual)]
    if ends.max() < _APART * ends.min():
        return False
    logs = np.log(values)
    within = logs - np.log(usual)[codes]
    return bool(np.var(within) < (1 - _EXPLAINED) * np.var(logs))
