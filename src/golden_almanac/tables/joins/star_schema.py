"""Several tables by name, and the star they make: the longest table with all that it leads to."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from ...support.errors import JoinError, RequestError, join_or, nearest
from ...support.notebook_view import view
from ...support.phrasing import phrased, phrased_count
from ...support.printable import made_visible
from .. import Table
from .key_discovery import Link, find_links
from .left_join import join

if TYPE_CHECKING:
    import pandas as pd


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class Tables(Mapping[str, Table]):
    """Tables by name, in the order of their source, with the `links` found between them, most likely first."""

    tables: Mapping[str, Table]
    links: tuple[Link, ...]

    def __getitem__(self, name: str) -> Table:
        if name in self.tables:
            return self.tables[name]
        near = nearest(name, list(self.tables))
        known = f"did you mean {join_or(near)}?" if near else f"one of {', '.join(self.tables)}"
        raise RequestError("The table", name, known)

    def __iter__(self) -> Iterator[str]:
        return iter(self.tables)

    def __len__(self) -> int:
        return len(self.tables)

    def star(self, fact: str | None = None) -> Table:
        """The table `fact` (the longest that leads to another, by default) with the columns of every table it leads
        to, directly or through another; its rows stay as they are. Raises RequestError when nothing is linked."""
        leading = [name for name in self.tables if any(link.left == name for link in self.links)]
        if fact is None:
            if not leading:
                raise JoinError(
                    f"No key between the tables ({', '.join(self.tables)}) was found. Join them on columns you name."
                )
            fact = max(leading, key=lambda name: self.tables[name].rows)
        return self._joined(fact, self[fact], {fact})

    def _joined(self, name: str, made: Table, done: set[str]) -> Table:
        for link in self.links:
            if link.left == name and link.right not in done:
                done.add(link.right)
                right = self._joined(link.right, self.tables[link.right], done)
                made = join(made, right, dict(zip(link.left_on, link.right_on, strict=True)))
        return made

    def to_frame(self) -> pd.DataFrame:
        """One row a link: tables, columns, share of keys held, rows before and after, orphans, unused, score."""
        import pandas as pd

        rows = [
            {
                "left": link.left,
                "right": link.right,
                "on": link.on,
                "held": link.held,
                "rows_before": link.rows,
                "rows_after": link.rows,
                "orphans": link.orphans,
                "orphan_keys": ", ".join(link.orphan_keys),
                "unused": link.unused,
                "score": link.score,
            }
            for link in self.links
        ]
        names = "left right on held rows_before rows_after orphans orphan_keys unused score".split()
        return pd.DataFrame(rows, columns=names)

    def to_dict(self) -> dict[str, Any]:
        """The format golden-almanac/links/1."""
        return {
            "format": "golden-almanac/links/1",
            "tables": [
                {"name": name, "rows": table.rows, "columns": table.names} for name, table in self.tables.items()
            ],
            "links": [
                {
                    "left": link.left,
                    "right": link.right,
                    "on": dict(zip(link.left_on, link.right_on, strict=True)),
                    "held": link.held,
                    "likeness": link.alike / 100,
                    "rows_before": link.rows,
                    "rows_after": link.rows,
                    "orphans": link.orphans,
                    "orphan_keys": list(link.orphan_keys),
                    "unused": link.unused,
                }
                for link in self.links
            ],
        }

    def sentences(self) -> list[str]:
        """One sentence a link: the keys, the rows before and after, and what finds no match."""
        said: list[str] = []
        for link in self.links:
            lost = phrased_count(link.orphans, "{n} row without a match", "{n} rows without a match")
            unused = phrased_count(
                link.unused, "{n} row of {table} never used", "{n} rows of {table} never used", table=link.right
            )
            if link.orphan_keys:
                lost = phrased("{text} ({keys})", text=lost, keys=", ".join(link.orphan_keys))
            text = phrased(
                "{left} leads to {right} on {on}: {rows} rows before and after, {lost}",
                left=link.left,
                right=link.right,
                on=link.on,
                rows=link.rows,
                lost=lost if link.orphans else phrased("every row finds its match"),
            )
            text = phrased("{text}; {more}", text=text, more=unused) if link.unused else text
            said.append(phrased("{text}.", text=text))
        return said

    def _repr_html_(self) -> str:
        head, *lines = repr(self).split("\n")
        return view(head, map(str.strip, lines))

    @made_visible
    def __repr__(self) -> str:
        lines = [f"{name}: {table.rows:,} rows, {len(table.columns)} columns" for name, table in self.tables.items()]
        return "\n".join([*lines, *(f"  {text}" for text in self.sentences())])


def of_tables(tables: Mapping[str, Table]) -> Tables:
    """The tables with their links found."""
    return Tables(tables=dict(tables), links=find_links(tables))
