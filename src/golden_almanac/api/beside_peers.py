"""`ga.peers`: own figures beside those of peers."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from os import PathLike
from typing import TYPE_CHECKING, Any, ClassVar

from ..aggregation.measures import Measure, parse_measure
from ..analysis.peers import Peers, chosen_peers, peers_of
from ..charts import Chart
from ..charts.caller_axes import onto
from ..charts.peer_charts import draw_strips
from ..reports import Report as Model
from ..sql.expressions import quote_name
from ..support.errors import RequestError
from ..support.shell import suggested
from ..tables import Table, Timeline
from ..text import Summary
from ..text import peer_sentences as said
from ..text.text_tables import TextTable
from .read import read
from .request import Request, several
from .result import Result
from .result_language import in_voice, voiced

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.axes import Axes


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class PeerComparison(Result):
    """Own figures beside peers; `result` holds the lines, behind first, the peers chosen, and what the gap consists
    of."""

    format: ClassVar[str] = "golden-almanac/peers/1"

    result: Peers
    size: str | None
    category: str | None

    @property
    def sql(self) -> str:
        """One SELECT over the table of peers that gives the middle and the quarters of every figure again."""
        return self.result.sql

    def _about(self) -> Table:
        return self.result.peers

    def _line(self) -> Timeline | None:
        return None

    def _asked(self) -> dict[str, Any]:
        return {
            "own": self.result.own.name,
            "measures": sorted({line.measure for line in self.result.lines}),
            "size": self.size,
            "category": self.category,
        }

    @property
    def _amounts(self) -> dict[str, Measure]:
        """How an amount of each figure is written."""
        own = self.result.own
        return {
            line.measure: replace(parse_measure(f"sum({quote_name(line.measure)})", own), share=False)
            for line in self.result.lines
        }

    def _summed(self, length: str, technical: bool) -> Summary:
        return said.peers_summary(self.result, self._amounts, length)

    def _heading(self) -> str:
        return f"{self.result.chosen.own_name} beside {len(self.result.chosen.names)} peers"

    def _caveats(self) -> list[str]:
        return said.peers_caveats(self.result, self.size, self.category)

    def to_frame(self) -> pd.DataFrame:
        """One row a figure: measure, per, times (so many of per: a thousand, a million), own, median, best_quarter,
        quantile, low and high (of its 95% range), gap, gap_amount (to the better quarter), half_gap_amount (half the
        way to the median), better, n."""
        import pandas as pd

        return pd.DataFrame([
            {
                "measure": line.measure, "per": line.per, "times": line.times, "own": line.own, "median": line.median,
                "best_quarter": line.best, "quantile": line.quantile, "low": line.low, "high": line.high,
                "gap": line.gap, "gap_amount": line.gap_amount, "half_gap_amount": line.half_worth,
                "better": line.way, "n": line.n,
            }
            for line in self.result.lines
        ])  # fmt: skip

    @in_voice
    def tables(self) -> tuple[TextTable, ...]:
        """A row a figure; a row a cost of the gap."""
        first = said.peers_table(self.result, self._amounts)
        return (first, said.parts_table(self.result, self._amounts)) if self.result.parts else (first,)

    def _figures(self) -> dict[str, Any]:
        chosen = self.result.chosen
        return {
            "sql": self.sql,
            "chosen": list(chosen.names),
            "choice": {
                "category": None if chosen.category is None else list(chosen.category),
                "size": chosen.size, "band": chosen.band, "named": chosen.named, "left_out": chosen.left_out,
                "year": None if chosen.year is None else chosen.year[1],
            },
            "lines": self.to_frame().to_dict("records"),
            "gap": [
                {"measure": part.measure, "own": part.own, "peers": part.peers, "gap": part.gap, "amount": part.amount}
                for part in self.result.parts
            ],
        }  # fmt: skip

    @in_voice
    def chart(self, *, ax: Axes | None = None) -> Chart:
        """A strip of peers a figure, the own place lit."""
        with onto(ax):
            return draw_strips(self.result, self.headline.rstrip("."))

    def _pages(self, title: str | None) -> Model:
        from ..reports.peer_report import peer_report

        return peer_report(self.result, self.summary(), self.chart(), self.tables(), self.caveats(), title)


@dataclass(frozen=True, slots=True, kw_only=True)
class PeersRequest(Request):
    """Own figures beside peers; see `peers` for the fields. `source` is the table of peers."""

    call: ClassVar[str] = "peers"
    command: ClassVar[str] = "peers"
    options: ClassVar[Mapping[str, str]] = {"measures": "-m", "where": "-w", "named": "--peers"}

    own: Any = None
    measures: tuple[str, ...] | None = None
    per: tuple[str, ...] | None = None
    size: str | None = None
    category: str | None = None
    named: tuple[str, ...] | None = None
    name: str | None = None
    better: Mapping[str, str] | None = None

    def as_call(self) -> str:
        """The call in Python: `ga.peers(own, source, size='revenue')`."""
        given = ", ".join(f"{name}={value!r}" for name, value in self.given().items() if name != "own")
        return f"ga.peers(own, source, {given})" if given else "ga.peers(own, source)"

    def as_command(self, source: str) -> str:
        """The command line: the own figures, then the peers' source."""
        own = str(self.own) if isinstance(self.own, str | PathLike) else "own.csv"
        return suggested(self.command, own, source, *replace(self, own=None)._words())

    def _answered(self, table: Table) -> PeerComparison:
        own = read(self.own)
        for figure, way in (self.better or {}).items():
            if way not in ("up", "down"):
                raise RequestError("The better way", f"{figure}={way}", "up or down")
        chosen = chosen_peers(
            own, table, name=self.name, size=self.size, category=self.category, named=self.named
        )  # fmt: skip
        found = peers_of(own, table, chosen, self.measures, self.per, self.better or {})
        return PeerComparison(result=found, size=self.size, category=self.category)


@voiced
def peers(
    own: Any,
    source: Any,
    measures: Sequence[str] | str | None = None,
    *,
    per: Sequence[str] | str | None = None,
    size: str | None = None,
    category: str | None = None,
    named: Sequence[str] | str | None = None,
    name: str | None = None,
    better: Mapping[str, str] | None = None,
    where: str | None = None,
    progress: Callable[[str], None] | None = None,
    locale: str | None = None,
    names: Mapping[str, str] | None = None,
) -> PeerComparison:
    """Set own figures beside those of peers, each at the same size: where one is ahead, where behind, what closing the
    gap is worth, and what it consists of.

    Parameters
    ----------
    own
        The own figures, one row or one a year: anything `ga.read` takes, or a `Table`.
    source
        Those of the peers, one row each or one each a year, in columns of the same names. A missing figure leaves its
        peer out of that line.
    measures
        Figures to be told; by default all that both tables have.
    per
        What they are told per: a share of revenue, per head, per unit of anything; by default the column that is called
        revenue, and as they stand where there is none.
    size
        The figure that peers are to be about equal in: half to twice the own, wider where they are fewer than five.
    category
        The column whose label they share.
    named
        Peers by their names, in place of size and category.
    name
        The column of names; by default the texts of which most are different.
    better
        Which way is better, up or down, by figure, where the name does not tell.
    where
        An SQL condition on the table of peers.
    progress
        Called with a line of text: what is being done, how far it is, how long it will take.
    locale, names
        The language of the result, and what its columns are called there (see `speaking`); of the caller by default.

    Returns
    -------
    PeerComparison
        Figures as shares, or per thousand, million or billion; the middle is the median, the better quarter begins at
        the quartile (linear, Hyndman & Fan 1996, type 7), the place is the share of peers below with its 95% range
        (Wilson 1927). Of the gap in costs each line counts with its share of revenue, own less peers together.

    Raises
    ------
    AlmanacError
        One of its subclasses: no figure in common, another unit, fewer than two peers.
    """
    request = PeersRequest(
        source=source, own=own, measures=several(measures), per=several(per), size=size, category=category,
        named=several(named), name=name, better=better, where=where,
    )  # fmt: skip
    found: PeerComparison = request.run(progress)
    return found
