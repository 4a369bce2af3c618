"""Factors that only restate the outcome or another factor: bookkeeping, near copies, columns bound to one another."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from ...aggregation.measure_names import spoken
from ...support.phrasing import Commas, Glued, Phrase, figure, named, phrased
from ...tables.identities import identities
from ..clusters import accounted
from .design_matrix import Design
from .factors import Factor, LeftOut
from .outcome import Outcome

Floats = npt.NDArray[np.float64]

#: A single factor that leaves less than this of the outcome's variance restates it.
_RESTATES = 0.02
#: A block whose columns keep less than this of their own variance beside the others is determined by them.
_DETERMINED = 1e-7


def without_leaks(outcome: Outcome, factors: Sequence[Factor]) -> tuple[list[Factor], list[LeftOut]]:
    """The factors that may explain the outcome, and those that may not, each with its reason."""
    bound = _bookkeeping(outcome, factors)
    kept, left = [], []
    for factor in factors:
        if factor.name in bound:
            left.append(LeftOut(factor=factor.name, reason=bound[factor.name]))
            continue
        share = max(_explained_alone(outcome, factor), _repeated(outcome, factor))
        if share > 1 - _RESTATES:
            left.append(
                LeftOut(
                    factor=factor.name,
                    reason=phrased("it all but restates the outcome (R² {share} by itself)", share=figure(share, 3)),
                )
            )
            continue
        kept.append(factor)
    kept, determined = _independent(outcome, kept)
    return kept, [*left, *determined]


def _bookkeeping(outcome: Outcome, factors: Sequence[Factor]) -> dict[str, str]:
    """Factors bound to the outcome by an accounting identity."""
    table = outcome.table
    numeric = [column.name for column in table.columns if column.type in ("number", "boolean")]
    wanted = [name for name in numeric if name in outcome.columns]
    if len(wanted) != 1:
        return {}
    used = [*wanted, *(factor.column for factor in factors if factor.column in numeric)]
    found: dict[str, str] = {}
    for identity in identities(table, list(dict.fromkeys(used))):
        if wanted[0] not in identity.columns:
            continue
        text = phrased("bookkeeping: {identity}", identity=_told(identity.kind, identity.result, identity.terms))
        for name in identity.columns - {wanted[0]}:
            found.setdefault(name, text)
    return found


def _told(kind: str, result: str, terms: tuple[tuple[float, str], ...]) -> Phrase:
    name, names = named(result, spoken(result)), [named(column, spoken(column)) for _, column in terms]
    if kind == "threshold":
        at = abs(terms[0][0])
        return phrased(
            "{result} is {name} cut at {at}", result=name, name=names[0], at=figure(at, 0 if at == int(at) else 2)
        )
    pieces: list[str] = []
    for place, (weight, _) in enumerate(terms):
        if kind == "product":
            pieces += [" × " if place else "", names[place]]
            continue
        size = "" if abs(abs(weight) - 1) < 1e-9 else f"{abs(weight):.4g} "
        sign = ("− " if weight < 0 else "") if place == 0 else (" − " if weight < 0 else " + ")
        pieces += [sign + size, names[place]]
    return phrased("{result} = {terms}", result=name, terms=Glued(pieces))


def _explained_alone(outcome: Outcome, factor: Factor) -> float:
    """R² of the outcome on one factor: bin means, and a straight line, whichever is more."""
    rows = slice(None, None, max(1, outcome.n // 200_000))
    y = outcome.values[rows]
    w = outcome.weights[rows] if outcome.weights is not None else np.ones(y.size)
    whole_codes, count, _ = factor.bins
    codes = whole_codes[rows]
    held, sums = np.bincount(codes, weights=w, minlength=count), np.bincount(codes, weights=w * y, minlength=count)
    centre = float(np.average(y, weights=w))
    whole = float(np.sum(w * (y - centre) ** 2))
    seen = held > 0
    # Each bin costs a degree of freedom, or forty rows in thirty bins would restate anything; what few are left tell
    # nothing.
    free = y.size - int(seen.sum())
    between = float(np.sum((sums[seen] - centre * held[seen]) ** 2 / held[seen]))
    best = 1 - (whole - between) / whole * (y.size - 1) / free if free >= y.size / 3 else 0.0
    if factor.number:
        assert factor.values is not None
        x = (np.where(factor.missing, factor.mean, factor.values) - factor.mean)[rows]
        slope = float(np.sum(w * x * (y - centre)))
        best = max(best, slope**2 / max(float(np.sum(w * x * x)) * whole, 1e-300))
    return best


def _repeated(outcome: Outcome, factor: Factor) -> float:
    """The share of the outcome that all labels of a category account for, those put together as "other" too: the rate
    of a loan is that of its number, in each of its rows."""
    if factor.number or not factor.folded or factor.part:
        return 0.0
    return accounted(outcome.values, outcome.table.codes(factor.column)[0][outcome.rows].astype(np.intp))


def _independent(outcome: Outcome, factors: Sequence[Factor]) -> tuple[list[Factor], list[LeftOut]]:
    """Factors none of which is determined by others. Finer categories stay, and what they determine goes: all that a
    region could tell is told by its routes."""
    ordered = sorted(factors, key=lambda one: (one.number, -len(one.levels), list(factors).index(one)))
    design = Design.of(ordered, outcome.n)
    step = max(1, outcome.n // 100_000)
    rows = np.arange(0, outcome.n, step)
    gram = np.zeros((design.k, design.k))
    for _, x in design.stretches(rows):
        gram += x.T @ x
    size = np.sqrt(np.maximum(np.diag(gram), 1e-300))
    gram = gram / np.outer(size, size)
    kept_columns: list[int] = [0]
    gone: list[LeftOut] = []
    names: list[Factor] = []
    for number, factor in enumerate(ordered):
        block = np.arange(design.blocks[number].start, design.blocks[number].stop)
        known = np.array(kept_columns)
        before = gram[np.ix_(known, known)]
        across = gram[np.ix_(known, block)]
        left = gram[np.ix_(block, block)] - across.T @ np.linalg.lstsq(before, across, rcond=1e-12)[0]
        own = np.diag(gram)[block] - gram[0, block] ** 2
        if bool((np.diag(left) <= _DETERMINED * np.maximum(own, 1e-12)).all()):
            gone.append(LeftOut(factor=factor.name, reason=_by_whom(factor, names)))
            continue
        names.append(factor)
        kept_columns += block.tolist()
    kept = [factor for factor in factors if factor in names]
    return kept, gone


def _name(factor: Factor) -> str:
    """What a factor is called; a part of a date has no other name."""
    return factor.spoken if factor.part else named(factor.column, factor.spoken)


def _by_whom(factor: Factor, others: Sequence[Factor]) -> str:
    codes, count, _ = factor.bins
    for other in others:
        theirs, their_count, _ = other.bins
        if other.number and factor.number:
            assert factor.values is not None
            assert other.values is not None
            both = ~(factor.missing | other.missing)
            if both.sum() > 2 and abs(float(np.corrcoef(factor.values[both], other.values[both])[0, 1])) > 1 - 1e-9:
                return phrased("it is {other} in another unit", other=_name(other))
            continue
        if other.number:
            continue
        pairs = np.zeros((their_count, count), dtype=bool)
        pairs[theirs, codes] = True
        if bool((pairs.sum(axis=1) <= 1).all()):
            return phrased(
                "each {other} has only one {factor}, so {other} tells it already",
                other=_name(other),
                factor=_name(factor),
            )
    listed = Commas(_name(other) for other in others[:4])
    return phrased("the other factors together determine it ({others})", others=listed)
