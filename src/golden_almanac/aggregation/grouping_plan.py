"""How groups are made: one fine grouping from the rows, the others rolled up from it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """`keys` of the finest grouping, with the number of cells `estimated` from a sample and the real number (`cells`,
    None where grouping the rows themselves was as good); `derived` dimensions are read off the one they hold;
    `rolled` are the groupings put together from it, `direct` those made from the rows by themselves."""

    rows: int
    keys: tuple[str, ...]
    derived: Mapping[str, str]
    estimated: int | None
    cells: int | None
    rolled: tuple[tuple[str, ...], ...]
    direct: tuple[tuple[str, ...], ...]

    def lines(self) -> list[str]:
        """The plan as people read it."""
        by = ", ".join(self.keys)
        if self.cells is not None:
            found = [f"{self.rows:,} rows grouped once by {by}: {self.cells:,} cells ({self.estimated:,} estimated)."]
        elif self.estimated is not None:
            found = [f"No grouping by {by}: {self.estimated:,} cells estimated of {self.rows:,} rows; each by itself."]
        else:
            found = [f"{self.rows:,} rows, grouped as they are for each request."]
        found += [f"  {above} is read off {child}" for above, child in sorted(self.derived.items())]
        for said, groups in (("rolled up", self.rolled), ("from the rows", self.direct)):
            found += [f"  {' × '.join(keys) or 'the whole'}: {said}" for keys in groups]
        return found
