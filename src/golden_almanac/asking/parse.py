"""The places of a question while they are put together: which are used, and what for."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from ..tables import Column, Role, Table, Timeline
from .asked import Problem, Traced
from .lexicon import Lexicon
from .places import Item
from .vocabulary import Vocabulary


class Parse:
    """`items` are the places that carry meaning, in their order; each is used once, by whoever knows what it is for."""

    def __init__(
        self, table: Table, known: Vocabulary, words: Lexicon, line: Timeline | None, items: list[Item]
    ) -> None:
        self.table, self.known, self.words, self.line = table, known, words, line
        items = _choices_unread(items)
        self.items = [item for item in items if item.kind != "filler"]
        self.fillers = [item for item in items if item.kind == "filler"]
        self.used: dict[int, Traced] = {}
        self.notes: list[str] = []
        self.as_share = False

    def use(self, place: int, meaning: str, kind: str = "") -> Item:
        item = self.items[place]
        told = meaning if not item.slip else f"{meaning} ({item.slip})"
        self.used[place] = Traced(words=item.words, meaning=told, kind=kind or item.kind)
        return item

    def free(self, *kinds: str, tag: str | None = None) -> Iterator[int]:
        """The places of some kinds that nobody used yet."""
        for place, item in enumerate(self.items):
            if place not in self.used and item.kind in kinds and (tag is None or item.tag == tag):
                yield place

    def first(self, *kinds: str, tag: str | None = None) -> int | None:
        return next(self.free(*kinds, tag=tag), None)

    def at(self, place: int) -> Item | None:
        """The item at a place, if it is there and free."""
        return self.items[place] if 0 <= place < len(self.items) and place not in self.used else None

    def kind(self, place: int) -> str:
        item = self.at(place)
        return "" if item is None else item.kind

    def tag(self, place: int) -> str:
        item = self.at(place)
        return "" if item is None else item.tag

    def back(self, place: int) -> int:
        """The place before, whatever was used in between left out."""
        place -= 1
        while place >= 0 and (place in self.used or self._is_of(place)):
            place -= 1
        return place

    def _is_of(self, place: int) -> bool:
        return self.items[place].kind == "arithmetic" and self.items[place].tag == "of"

    def kind_of(self, place: int) -> str:
        """The kind of a place, used or not."""
        return self.items[place].kind if 0 <= place < len(self.items) else ""

    def next(self, place: int) -> int:
        """The place behind, whatever was used in between left out."""
        place += 1
        while place < len(self.items) and (place in self.used or self._is_of(place)):
            place += 1
        return place

    def all_of(self, *kinds: str, tag: str | None = None) -> list[int]:
        return list(self.free(*kinds, tag=tag))

    # --- columns ---------------------------------------------------------------------------------------

    def column(self, place: int) -> Column | None:
        """The column at a place. Raises Problem where several could be meant."""
        item = self.at(place)
        if item is None or item.kind != "column":
            return None
        if len(item.columns) > 1:
            raise Problem(
                f"“{item.words}” could be {_listed(item.columns)}.",
                "several columns",
                {"words": item.words, "names": list(item.columns)},
                alternatives=tuple(item.columns[:6]),
            )
        return self.known.columns[item.column]

    def code(self, place: int) -> str:
        """What a place is to the grammar: c a column of numbers, y of yes and no, d of labels, t of dates, k another;
        the kind of anything else."""
        item = self.at(place)
        if item is None:
            return ""
        if item.kind != "column":
            return item.kind
        kinds = {code_of(self.known.columns[name], self.line) for name in item.columns}
        return kinds.pop() if len(kinds) == 1 else "c" if "c" in kinds else "d"

    def columns(self, codes: str) -> list[int]:
        return [place for place in self.free("column") if self.code(place) in codes]

    def unread(self) -> list[int]:
        return [place for place in range(len(self.items)) if place not in self.used]


def _choices_unread(items: list[Item]) -> list[Item]:
    """A deed right before rows or a figure chooses some of them ("answered calls"): that is read by a column or not at
    all."""
    made = []
    for item, behind in zip(items, [*items[1:], None], strict=True):
        chosen = item.tag == "deed" and behind is not None and behind.kind in ("rows", "column", "label")
        made.append(replace(item, kind="unread", tag="") if chosen else item)
    return made


def code_of(column: Column, line: Timeline | None) -> str:
    if line is not None and column.name == line.column:
        return "t"
    if column.type in ("date", "datetime"):
        return "t"
    if column.type == "boolean":
        return "y"
    if column.type == "number":
        return "d" if column.role in (Role.DIMENSION, Role.PART) else "c" if column.role is not Role.KEY else "k"
    if column.role is Role.KEY:
        return "k"
    return "d"


def _listed(names: tuple[str, ...]) -> str:
    shown = list(names[:6])
    more = f" and {len(names) - 6} more" if len(names) > 6 else ""
    return (", ".join(shown[:-1]) + " or " + shown[-1] if len(shown) > 1 and not more else ", ".join(shown)) + more
