"""A table of text."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from ...support.notebook_view import Grid, view
from ...support.printable import made_visible

if TYPE_CHECKING:
    import pandas as pd


@dataclass(frozen=True, slots=True, kw_only=True)
class TextTable:
    """Title, heads and rows as they are shown; `total` is the last row where parts add up, else empty; the first `left`
    columns are words, the others figures."""

    title: str
    heads: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    total: tuple[str, ...] = ()
    left: int = 1

    def to_frame(self) -> pd.DataFrame:
        """The rows as a frame, without the total."""
        import pandas as pd

        return pd.DataFrame([list(row) for row in self.rows], columns=list(self.heads))

    def _repr_html_(self) -> str:
        rows = [*self.rows, *([self.total] if self.total else [])]
        figures = [place >= self.left for place in range(len(self.heads))]
        return view(self.title, grid=Grid(self.heads, rows, figures, len(rows), len(self.heads)))

    @made_visible
    def __str__(self) -> str:
        lines = [self.heads, *self.rows, *([self.total] if self.total else [])]
        widths = [max(len(line[place]) for line in lines) for place in range(len(self.heads))]
        told = (
            "  ".join(
                text.ljust(width) if place < self.left else text.rjust(width)
                for place, (text, width) in enumerate(zip(line, widths, strict=True))
            ).rstrip()
            for line in lines
        )
        return "\n".join([self.title, *told])


#: What stands where there is no figure.
NONE = "–"
