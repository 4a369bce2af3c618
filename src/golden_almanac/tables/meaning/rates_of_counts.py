"""Rates that a table has the two counts of and does not give: orders per visitor, defects per part inspected.

What two groups sold says little where one had more visitors. A column that counts what may come of each of another
column's (by their names, and never more of it than of those) is told as a share of it, too.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from ...support.english_nouns import singular
from .. import Column, Role, Table
from . import glimpse
from .name_words import words
from .natures import Nature

#: What is counted, and what it is a share of, the likelier first.
_PAIRS = tuple(
    (frozenset(events.split()), tuple(chances.split()))
    for events, chances in (
        ("open unsubscribe bounce", "delivered sent"),
        ("click clic klick", "impression impr delivered sent"),
        ("order purchase conversion conv signup registration lead kauf bestellung pedido compra commande achat",
         "session visit visitor user click sitzung besuch besucher sesion visita visitante visite visiteur"),
        ("defect reject rejected failed passed fault fehler ausschuss defecto defaut",
         "inspected tested checked produced gepruft geprueft"),
        ("error failure", "request call anfrage"),
        ("return refund complaint cancellation claim retoure reklamation stornierung devolucion queja retour plainte",
         "order shipment delivery booking trip bestellung buchung pedido commande"),
        ("answered abandoned missed", "offered call anruf llamada appel"),
        ("attended absent", "possible enrolled invited eligible"),
        ("won accepted", "opportunity lead application"),
        ("noshow", "booking cover reservation"),
        ("late", "shipment delivery trip"),
    )
)  # fmt: skip
#: Rows that must have both, the share of them in which there are no more events than chances, and rates that are told.
_LEAST_ROWS, _WITHIN, _MOST = 20, 0.995, 2
#: Events that are more than this share of their chances all along are the same thing once more.
_SAME = 0.98


class CountedRate(NamedTuple):
    """Two columns of counts, one of events and one of chances of them."""

    events: str
    chances: str


def rates_of_counts(table: Table) -> list[CountedRate]:
    """The rates that a table has the counts of, each event with its likeliest chances; none that a column gives."""
    counted = [column for column in table.with_role(Role.MEASURE) if _is_count(column)]
    given = {pair for column in table.columns if column.weighed is not None for pair in [column.weighed[:2]]}
    values = {column.name: glimpse.numbers(table, column.name) for column in counted} if len(counted) > 1 else {}
    found: list[CountedRate] = []
    for event in counted:
        said = _said(event)
        wanted = next((chances for events, chances in _PAIRS if events & said), ())
        others = [
            one.name
            for word in wanted
            for one in counted
            if one.name != event.name and word in _said(one) and _within(values[event.name], values[one.name])
        ]
        if others and not any(event.name in pair for pair in given):
            found.append(CountedRate(event.name, others[0]))
    return found[:_MOST]


def _said(column: Column) -> set[str]:
    said = words(column.name)
    joined = {"".join(said[at : at + 2]) for at in range(len(said) - 1)}
    return {one for word in (*said, *joined) for one in (word, singular(word))}


def _is_count(column: Column) -> bool:
    counts = column.nature in (Nature.COUNT, Nature.FLOW) and column.type == "number" and column.unit is None
    return counts and bool(column.adds_up)


def _within(events: np.ndarray, chances: np.ndarray) -> bool:
    """Whether events are whole numbers, and never more of them than chances, but nearly always fewer."""
    known = np.isfinite(events) & np.isfinite(chances)
    one, other = events[known], chances[known]
    if one.size < _LEAST_ROWS or (one != np.round(one)).any() or (other != np.round(other)).any() or one.min() < 0:
        return False
    return bool(np.mean(one <= other) >= _WITHIN and 0 < one.sum() <= _SAME * other.sum())
