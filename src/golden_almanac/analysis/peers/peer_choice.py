"""Which peers: of the same category, of about the same size, or those that are named."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ...support.errors import ColumnError, RequestError
from ...tables import Role, Table

Floats = npt.NDArray[np.float64]
#: Bands of size, as parts and multiples of the own one, tried one after the other until there are peers enough.
_BANDS, _ENOUGH = (2.0, 3.0, 5.0, 10.0), 5
#: How many times as large as all peers, or as small, the own figures may be before another unit is likelier.
_ANOTHER_UNIT = 300.0
_TIME_WORDS = ("year", "jahr", "ano", "año", "annee", "année", "fiscal_year")


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Chosen:
    """The peers chosen: `names`, in alphabetical order, and their `rows`, each as its figures; `own` the own ones.
    `category` is the label that they share, `band` how many times smaller or larger they may be, `named` whether they
    were named; `left_out` how many others there are. `year` where figures of one year were taken."""

    own_name: str
    own: dict[str, float]
    names: tuple[str, ...]
    figures: dict[str, Floats]
    name_column: str
    category: tuple[str, str] | None
    size: str | None
    band: float | None
    named: bool
    left_out: int
    year: tuple[str, float] | None
    where: str | None


def chosen_peers(
    own: Table, peers: Table, *, name: str | None, size: str | None, category: str | None, named: Sequence[str] | None
) -> Chosen:
    """The peers to be set beside. Raises ColumnError, RequestError."""
    for table in (own, peers):
        if table.minimum > 1:
            raise RequestError("Peers", table.name, "shown one by one, which groups of a least size forbid")
    label = _name_column(peers, name)
    year, own_row, rows = _one_row_each(own, peers, label)
    labels = np.array([str(one) for one in _texts(peers, label)], dtype=object)
    # A row of one's own in the table of peers is no peer.
    own_name = str(_texts(own, label)[own_row]) if label in own.names else own.name
    rows = np.array([row for row in rows if labels[row] != own_name], dtype=np.int64)
    both = [
        one.name for one in peers.columns
        if one.type == "number" and one.name in own.names and own.column(one.name).type == "number"
        and (year is None or one.name != year[0])
    ]  # fmt: skip
    if not both:
        raise RequestError(
            "The figures", "none", f"columns that {own.name} and {peers.name} have in common, by their names"
        )
    _same_units(own, peers, both)
    figures = {column: peers.numbers(column)[rows] for column in both}
    mine = {column: float(own.numbers(column)[own_row]) for column in both}
    _same_scale(mine, figures, peers.name)
    names = labels[rows]
    if named:
        unknown = [one for one in named if one not in names]
        if unknown:
            raise RequestError.unknown("The peer", unknown[0], [*map(str, names)], "peers")
        kept, shared, band = np.isin(names, list(named)), None, None
    else:
        kept, shared = _of_category(own, peers, category, own_row, rows)
        kept, band = _of_size(mine, figures, size, kept)
    order = [place for place in np.argsort(names.astype(str), kind="stable") if kept[place]]
    if len(order) < 2:
        raise RequestError("The peers", f"{len(order)} in {peers.name}", "two or more: name others, or no category")
    return Chosen(
        own_name=own_name,
        own=mine,
        names=tuple(str(names[place]) for place in order),
        figures={column: values[order] for column, values in figures.items()},
        name_column=label,
        category=shared,
        size=None if named else size,
        band=band,
        named=bool(named),
        left_out=int(rows.size - len(order)),
        year=year,
        where=peers.where,
    )


def _texts(table: Table, column: str) -> list[str | None]:
    codes, labels = table.codes(column)
    return [None if code < 0 else labels[code] for code in codes]


def _name_column(peers: Table, name: str | None) -> str:
    if name is not None:
        return peers.column(name, "the names of peers").name
    texts = [one for one in peers.columns if one.type == "text"]
    if not texts:
        raise RequestError("The names of peers", peers.name, "in a column of texts: there is none")
    return max(texts, key=lambda one: one.distinct).name


def _one_row_each(
    own: Table, peers: Table, label: str
) -> tuple[tuple[str, float] | None, int, npt.NDArray[np.int64]]:  # fmt: skip
    """The own row, and those of the peers, of the latest year that both have where there are years."""
    years = [
        one.name for one in peers.columns
        if one.name in own.names and (one.role in (Role.TIME, Role.PART) or one.name.casefold() in _TIME_WORDS)
    ]  # fmt: skip
    names = _texts(peers, label)
    if own.rows == 1 and len(set(names)) == len(names):
        return None, 0, np.arange(peers.rows)
    if not years:
        if own.rows != 1:
            raise RequestError("The own figures", f"{own.rows} rows", "one row, or one a year with a column year")
        raise RequestError("The peers", f"several rows of one in {peers.name}", "one row each, or one a year")
    mine, theirs = (_years(table, years[0]) for table in (own, peers))
    common = sorted(set(mine.tolist()) & set(theirs.tolist()))
    if not common:
        raise RequestError("The years", f"{years[0]}", f"such that {own.name} and {peers.name} have one in common")
    latest = common[-1]
    rows = np.flatnonzero(theirs == latest)
    own_rows = np.flatnonzero(mine == latest)
    if own_rows.size != 1 or len({names[row] for row in rows}) != rows.size:
        raise RequestError("The figures", f"several rows of one in {latest:g}", "one row each a year")
    return (years[0], float(latest)), int(own_rows[0]), rows


def _years(table: Table, column: str) -> Floats:
    if table.column(column).type == "number":
        return table.numbers(column)
    return np.asarray(table.days(column).astype("datetime64[Y]").astype(np.int64) + 1970, dtype=np.float64)


def _same_units(own: Table, peers: Table, columns: Sequence[str]) -> None:
    for name in columns:
        mine, theirs = own.column(name).unit, peers.column(name).unit
        if mine and theirs and mine != theirs:
            raise ColumnError(
                name, f"{name!r} is in {mine} in {own.name} and in {theirs} in {peers.name}.", "Give both in one unit."
            )


def _same_scale(own: dict[str, float], peers: dict[str, Floats], name: str) -> None:
    """Refuses figures that are in thousands here and in units there."""
    ratios = []
    for column, values in peers.items():
        known = values[np.isfinite(values) & (values != 0)]
        if known.size and own[column] and np.isfinite(own[column]):
            ratios.append(np.log(abs(own[column]) / float(np.median(np.abs(known)))))
    if len(ratios) >= 2 and abs(float(np.median(ratios))) > np.log(_ANOTHER_UNIT):
        times = "larger" if np.median(ratios) > 0 else "smaller"
        raise RequestError(
            "The own figures",
            f"hundreds of times {times} than those of {name}",
            "in the same unit (thousands, or units)",
        )


def _of_category(
    own: Table, peers: Table, category: str | None, own_row: int, rows: npt.NDArray[np.int64]
) -> tuple[npt.NDArray[np.bool_], tuple[str, str] | None]:
    """Peers of the own category; all where there are too few of it."""
    everyone = np.ones(rows.size, dtype=bool)
    if category is None:
        return everyone, None
    column = peers.column(category, "the category").name
    if column not in own.names:
        raise ColumnError(
            category, f"{own.name} has no column {category!r}, so its own category is not known.", "Add it."
        )
    label = _texts(own, column)[own_row]
    texts = _texts(peers, column)
    kept = np.array([texts[row] == label for row in rows])
    if label is None or kept.sum() < 2:
        return everyone, None
    return kept, (column, label)


def _of_size(
    own: dict[str, float], peers: dict[str, Floats], size: str | None, kept: npt.NDArray[np.bool_]
) -> tuple[npt.NDArray[np.bool_], float | None]:
    """Peers of about the own size; the band widens until there are enough, and goes where there are none."""
    if size is None:
        return kept, None
    if size not in peers:
        raise ColumnError(
            size, f"{size!r} is no figure that both tables have.", f"Name one of {', '.join(sorted(peers)[:8])}."
        )
    if not own[size] > 0:
        raise ColumnError(
            size, f"The own {size!r} is {own[size]:g}, so that no band of size can be told.", "Name another."
        )
    for band in _BANDS:
        inside = kept & (peers[size] >= own[size] / band) & (peers[size] <= own[size] * band)
        if inside.sum() >= min(_ENOUGH, kept.sum()):
            return inside, band
    return (inside, _BANDS[-1]) if inside.sum() >= 2 else (kept, None)
