"""What every result can do: summary, frame, JSON, charts, report, another language, a face in terminal and notebook.

A result is made in a voice (a language, and what columns are called there) and says everything in it. A subclass gives
what is its own; entering the voice, the head and the end of the JSON, and the report around the pages are here, once.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Mapping
from dataclasses import dataclass, field, fields, replace
from typing import TYPE_CHECKING, Any, ClassVar, TypeVar

from ..analysis.scan_pipeline import timeline_for
from ..charts import Chart
from ..findings.finding import plain
from ..reports import Report as Model
from ..support.notebook_view import grid_of, view
from ..support.printable import made_visible
from ..tables import Table, Timeline
from ..tables.polars_frames import in_polars
from ..text import Summary
from ..text.languages import Voice, say, voice, voice_of
from ..text.languages import speaking as spoken_by
from ..text.problem_sentences import problem_dict
from ..text.summary import check_length
from ..text.text_tables import TextTable
from .json_envelope import table_head
from .report import Report
from .result_language import in_one_palette, in_voice

if TYPE_CHECKING:
    import pandas as pd
    import polars as pl
    from matplotlib.axes import Axes

R = TypeVar("R", bound="Result")
#: Rows of the frame that a terminal or a notebook shows.
_SHOWN = 20


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class Result(ABC):
    """A result of an analysis, frozen; `voice` is the language that it speaks."""

    #: The format of its JSON.
    format: ClassVar[str]

    voice: Voice = field(default_factory=voice)

    # --- what a subclass gives, asked for in its voice --------------------------------------------

    @abstractmethod
    def _about(self) -> Table:
        """The table that it was made from."""

    @abstractmethod
    def _asked(self) -> Mapping[str, Any]:
        """What was asked, as understood: the `request` of the JSON, without source and condition."""

    @abstractmethod
    def _summed(self, length: str, technical: bool) -> Summary:
        """The summary, of a length that there is."""

    @abstractmethod
    def _figures(self) -> Mapping[str, Any]:
        """The figures of its JSON, between the head and the summary."""

    @abstractmethod
    def _pages(self, title: str | None) -> Model:
        """The report's content."""

    @abstractmethod
    def _heading(self) -> str:
        """The first line in a terminal: what it is, and of what."""

    def _caveats(self) -> list[str]:
        return []

    def _line(self) -> Timeline | None:
        """The timeline that it was made by, or that the table has."""
        return timeline_for(self._about())

    def _retold(self: R) -> R:
        """The same in the voice that speaks now, and so the results that it is made of."""
        parts = {one.name: _part_retold(getattr(self, one.name)) for one in fields(self)}
        return replace(self, **{**parts, "voice": voice()})

    def _face(self) -> pd.DataFrame:
        """The columns of the frame that a terminal shows."""
        return self.to_frame()

    # --- what every result has ---------------------------------------------------------------------

    @property
    @in_voice
    def headline(self) -> str:
        """One sentence with its number."""
        return self.summary().headline

    @in_voice
    def summary(self, length: str = "standard", *, technical: bool = False) -> Summary:
        """What it says: short (60 words), standard (150) or long (400), where there is so much to say; `technical` adds
        how sure each story is. Raises RequestError for another length."""
        return self._summed(check_length(length), technical)

    @in_voice
    def caveats(self) -> list[str]:
        """What to bear in mind of the data and of the method."""
        return self._caveats()

    @in_voice
    def tables(self) -> tuple[TextTable, ...]:
        """Its figures as tables of text, as a terminal shows them."""
        return ()

    @abstractmethod
    def to_frame(self) -> pd.DataFrame:
        """Its figures as a frame: the one source of numbers."""

    def to_polars(self) -> pl.DataFrame:
        """The same frame for callers who work in Polars. Raises OutputError where Polars is not installed."""
        return in_polars(self.to_frame())

    @in_voice
    def to_dict(self) -> dict[str, Any]:
        """The result in JSON: `format`, `table`, `request`, `readiness`, `caveats`, its own figures, `summary`."""
        table = self._about()
        made: dict[str, Any] = plain(
            {
                "format": self.format,
                "table": table_head(table, self._line()),
                "request": {"source": table.name, **self._asked(), "where": table.where},
                "readiness": [problem_dict(problem) for problem in table.problems],
                "caveats": self.caveats(),
                **self._figures(),
                "summary": self.summary().to_dict(),
            }
        )
        return made

    @in_voice
    def chart(self, *, ax: Axes | None = None) -> Chart:
        """Its first chart. Raises LookupError where there is nothing to draw."""
        raise LookupError("there is nothing to draw")

    @in_voice
    @in_one_palette
    def charts(self) -> tuple[Chart, ...]:
        """All its charts; none where there is nothing to draw."""
        try:
            return (self.chart(),)
        except LookupError:
            return ()

    @in_voice
    @in_one_palette
    def report(self, title: str | None = None) -> Report:
        """It as a report, ready to publish."""
        return Report(model=self._pages(title), data=self.to_dict, frame=self.to_frame)

    def in_language(self: R, locale: str, names: Mapping[str, str] | None = None) -> R:
        """The same, told in another language: en, de, es or fr, with a territory or without; nothing is worked out
        anew. `names` says what columns and labels are called (see `speaking`). Raises RequestError for a locale there
        are no phrases for."""
        with spoken_by(replace(voice_of(locale, names), rows=self.voice.rows)):
            return self._retold()

    @made_visible
    @in_voice
    def __repr__(self) -> str:
        frame = self._face()
        shown = "" if frame.empty else f"\n\n{_listed(frame.head(_SHOWN))}"
        return f"{self._heading()}\n{self.summary()}{shown}"

    @in_voice
    def _repr_html_(self) -> str:
        told, frame = self.summary(), self._face()
        rows = None if frame.empty else grid_of(frame)
        return view(told.headline, [told.text] if told.text else [], rows, phrase=say)


def _part_retold(value: Any) -> Any:
    """A field of a result in the voice that speaks now, where it is a result or several of them."""
    if isinstance(value, Result):
        return value._retold()
    if isinstance(value, tuple) and value and all(isinstance(one, Result) for one in value):
        return tuple(one._retold() for one in value)
    return value


def _listed(frame: pd.DataFrame) -> str:
    """The rows of a frame as lines, texts at the left as they are read."""
    lined = frame.copy()
    for name in lined.columns:
        if not _numeric(lined[name]):
            texts = lined[name].map(lambda value: "" if value is None or value != value else str(value))
            lined[name] = texts.str.ljust(max(len(str(name)), int(texts.str.len().max())))
    return "\n".join(line.rstrip() for line in lined.to_string(index=False, justify="left").splitlines())


def _numeric(column: pd.Series[Any]) -> bool:
    return column.dtype.kind in "iuf"
