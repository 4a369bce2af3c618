"""`ga.report`: a result as pages and files."""

from __future__ import annotations

import os
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, fields, replace
from functools import partial, wraps
from pathlib import Path
from typing import TYPE_CHECKING, Any, Concatenate, ParamSpec, TypeVar

from ..charts import Chart
from ..charts.frame_chart import draw_frame
from ..charts.frame_columns import Wishes
from ..charts.look import HOUSE, Look, look_of, wearing
from ..charts.palette import Palette, sharing
from ..charts.rendering import Key, Way, keeping
from ..export.data_files import frame_bytes
from ..export.files import check_folder, write_whole
from ..export.folders import put_folder
from ..export.formats import FORMATS, OVERLAY, endings
from ..export.pointer_marks import overlay
from ..reports import KeyFigure, Section
from ..reports import Report as Model
from ..support.errors import OutputError, RequestError
from ..support.notebook_view import view
from ..support.printable import made_visible
from ..support.shell import file_name
from ..text import Summary
from ..text.languages import Voice, say
from ..text.summary import without
from .result_language import in_voice

if TYPE_CHECKING:
    import pandas as pd

P = ParamSpec("P")
R = TypeVar("R")
#: What a chart may be wished to be, beside its kind.
WISHES = tuple(field.name for field in fields(Wishes))


def _in_look(method: Callable[Concatenate[Report, P], R]) -> Callable[Concatenate[Report, P], R]:
    """A method that writes something, in the report's look."""

    @wraps(method)
    def written(self: Report, /, *args: P.args, **kwargs: P.kwargs) -> R:
        with wearing(self.look):
            return method(self, *args, **kwargs)

    return written


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class Report:
    """A report made from a scan or another result; `model` is what every format is made from. `views` are the same of
    slices along the columns `by`, between which the reader of the page can switch."""

    model: Model
    data: Callable[[], dict[str, Any]]
    frame: Callable[[], pd.DataFrame]
    views: tuple[tuple[tuple[str | None, ...], Model], ...] = ()
    by: tuple[str, ...] = ()
    look: Look = HOUSE

    @property
    def voice(self) -> Voice:
        """The language that the report was made in."""
        return self.model.voice

    def dressed(self, look: Mapping[str, Any], folder: str | os.PathLike[str] = ".") -> Report:
        """The same in the organisation's look: colours by role (`accent`, `paper`, `ink`, `rule`, `context`, `quiet`,
        `good`, `bad`; those of dark paper under `dark`), `categories`, fonts (`sans`, `sans_bold`, `serif`,
        `serif_bold`), a `logo`, a template of `slides` and of a `document`; files are relative to `folder`.

        Raises RequestError for a colour that cannot be read on its paper, OutputError for a file that cannot be used.
        """
        return replace(self, look=look_of(look, Path(folder)))

    @property
    def ids(self) -> tuple[str, ...]:
        """The ids of the sections, in their order."""
        return tuple(section.id for section in self.model.sections)

    def titled(self, title: str | None = None, *, subtitle: str | None = None, owner: str | None = None) -> Report:
        """A copy with another title, a subtitle, or the name of who answers for it."""
        model = self.model
        return replace(
            self,
            model=replace(
                model,
                title=model.title if title is None else title,
                subtitle=model.subtitle if subtitle is None else subtitle,
                owner=model.owner if owner is None else owner,
            ),
        )

    def summed(self, summary: Summary) -> Report:
        """A copy that opens with another summary of the same: longer, shorter or more technical."""
        return replace(self, model=replace(self.model, summary=summary))

    def opening(self, text: str) -> Report:
        """A copy whose summary begins with a sentence of your own, behind the headline."""
        summary = self.model.summary
        told = replace(summary, text=f"{text} {summary.text}".strip(), bullets=(text, *summary.bullets))
        return self.summed(told)

    def drop(self, *ids: str) -> Report:
        """A copy without these sections, and without what the summary says of them alone.

        Raises RequestError for an id that is not there.
        """
        self._known(ids)
        sections: list[Section] = []
        part = ""
        for section in self.model.sections:
            # The name of a part goes on to the section that opens it now.
            part = section.part or (part if section.level > 2 else "")
            if section.id not in ids:
                opens = bool(part) and not section.part
                sections.append(replace(section, part=part, level=2) if opens else section)
                part = ""
        listed = tuple(one for one in self.model.listed if one.section not in ids)
        kept = replace(self, model=replace(self.model, sections=tuple(sections), listed=listed))
        return kept.summed(without(kept.model.summary, ids))

    def first(self, *ids: str) -> Report:
        """A copy that opens with these sections, in this order. Raises RequestError for an id that is not there."""
        self._known(ids)
        by_id = {section.id: section for section in self.model.sections}
        return self._with((*(by_id[name] for name in ids), *(s for s in self.model.sections if s.id not in ids)))

    def replace(
        self, name: str, *, claim: str | None = None, detail: str | None = None, chart: Chart | None = None
    ) -> Report:
        """A copy with other words or another chart in one section. Raises RequestError for an id that is not there."""
        wanted = {"claim": claim, "detail": detail, "chart": chart}
        return self._changed(name, **{key: value for key, value in wanted.items() if value is not None})

    def resize(self, name: str, size: float) -> Report:
        """A copy in which a section's chart takes so much of its column: 0.3 to 1. Raises RequestError."""
        if not 0.3 <= size <= 1:
            raise RequestError("The size of a section", size, "a number from 0.3 to 1")
        return self._changed(name, size=float(size))

    def new_page(self, *ids: str) -> Report:
        """A copy in which these sections start a new page, where a format has pages. Raises RequestError."""
        self._known(ids)
        made = self
        for name in ids:
            made = made._changed(name, new_page=True)
        return made

    @in_voice
    def restyle(self, name: str, /, kind: str | None = None, **wishes: Any) -> Report:
        """A copy in which a section's chart is drawn otherwise from the same data: its kind, and what `ga.draw` takes
        (title, colours, order, most, unit, highlight, references, events, size).

        Raises RequestError, or ColumnError where the data do not have what is named.
        """
        self._known((name,))
        chart = next(section.chart for section in self.model.sections if section.id == name)
        if chart is None:
            raise RequestError("The section", name, "one with a chart")
        unknown = [key for key in wishes if key not in WISHES]
        if unknown:
            raise RequestError.unknown("The wish", unknown[0], WISHES, "wishes")
        wanted = {"title": chart.title, "subtitle": chart.subtitle, **wishes}
        # Nothing is lost of what the finding's own chart could be held to.
        drawn = draw_frame(chart.data, kind or chart.kind or "bars", Wishes(**wanted))
        return self._changed(name, chart=replace(drawn, name=chart.name, figures=chart.figures))

    def chart(self, chart: Chart, claim: str | None = None, text: str = "", *, before: str | None = None) -> Report:
        """A copy with a section for a chart of your own (see `ga.draw`). Raises RequestError for an id not there."""
        return self._placed(self._own("chart", claim or chart.title, text, chart=chart), before)

    def table(self, claim: str, frame: pd.DataFrame, text: str = "", *, before: str | None = None) -> Report:
        """A copy with a section for a table of your own. Raises RequestError for an id that is not there."""
        return self._placed(self._own("table", claim, text, table=frame), before)

    @_in_look
    def issues(self) -> list[str]:
        """What is wrong with how its charts look, by themselves and beside each other; nothing where all is well."""
        found: list[str] = []
        charts: list[Chart] = []
        for section in self.model.sections:
            if section.chart is not None:
                found += [f"{section.claim}: {text}" for text in section.chart.issues(charts)]
                charts.append(section.chart)
        return found

    def figure(self, name: str, value: str, change: str = "", spark: Sequence[float] = ()) -> Report:
        """A copy with one more figure in the opening row."""
        key = KeyFigure(name=name, value=value, change=change, spark=tuple(float(one) for one in spark))
        return replace(self, model=replace(self.model, keys=(*self.model.keys, key)))

    def add(self, other: Any) -> Report:
        """A copy with the sections of another result (a scan, change, comparison, drivers …) or report at its end."""
        more = other if isinstance(other, Report) else other.report()
        taken = set(self.ids)
        sections = []
        for section in more.model.sections:
            name, number = section.id, 2
            while name in taken:
                name, number = f"{section.id}-{number}", number + 1
            taken.add(name)
            sections.append(replace(section, id=name))
        caveats = tuple(dict.fromkeys((*self.model.caveats, *more.model.caveats)))
        return replace(self, model=replace(self._with((*self.model.sections, *sections)).model, caveats=caveats))

    def note(self, claim: str, text: str = "", *, before: str | None = None) -> Report:
        """A copy with a section of your own words, at the end or before another section.

        Raises RequestError for an id that is not there.
        """
        return self._placed(self._own("note", claim, text), before)

    def _own(self, kind: str, claim: str, text: str, **more: Any) -> Section:
        number = 1 + sum(name.startswith(f"{kind}-") for name in self.ids)
        plain: dict[str, Any] = {"chart": None, "evidence": (), "sql": "", "expect": (), **more}
        return Section(id=f"{kind}-{number}", claim=claim, detail=text, **plain)

    def _placed(self, section: Section, before: str | None) -> Report:
        if before is None:
            return self._with((*self.model.sections, section))
        self._known((before,))
        place = self.ids.index(before)
        return self._with((*self.model.sections[:place], section, *self.model.sections[place:]))

    def _changed(self, name: str, **what: Any) -> Report:
        self._known((name,))
        return self._with(
            tuple(replace(section, **what) if section.id == name else section for section in self.model.sections)
        )

    def _with(self, sections: tuple[Section, ...]) -> Report:
        return replace(self, model=replace(self.model, sections=sections))

    def _known(self, ids: Sequence[str]) -> None:
        for name in ids:
            if name not in self.ids:
                raise RequestError.unknown("The section", name, self.ids, "sections")

    def html(self) -> bytes:
        """The report as one self-contained page."""
        return self.made("html")

    @in_voice
    @_in_look
    def made(self, kind: str) -> bytes:
        """The report in one format (see `export.formats`); png is the whole page as a picture. Raises RequestError,
        OutputError."""
        alone = {name: one for name, one in FORMATS.items() if one.alone}
        if kind not in alone:
            raise RequestError("The format", kind, "one of " + ", ".join(alone))
        wanted = alone[kind]
        if wanted.takes == "views":
            return wanted.make(self.model, self.views, self.by)
        return wanted.make({"model": lambda: self.model, "data": self.data, "frame": self.frame}[wanted.takes]())

    @in_voice
    @_in_look
    def send(self, *, host: str, port: int = 25, sender: str, to: Sequence[str] | str) -> None:
        """Send the report as a mail through an SMTP server: summary and charts inline, the page attached.

        Raises RequestError for addresses that are none, OutputError where the server does not take it.
        """
        from ..export.mail import send

        send(self.model, host=host, port=port, sender=sender, to=[to] if isinstance(to, str) else list(to))

    def json(self) -> bytes:
        return self.made("json")

    def csv(self) -> bytes:
        return self.made("csv")

    @in_voice
    @_in_look
    def publish(
        self,
        folder: str | os.PathLike[str],
        formats: Sequence[str] = ("html", "json", "png", "svg"),
        *,
        replace: bool = False,
        progress: Callable[[str], None] = lambda _: None,
    ) -> list[Path]:
        """Write the report into a folder: report.html (.pdf, .pptx, .docx, .xlsx, .md, .eml), findings.json,
        findings.csv, charts/*.png and *.svg.

        Everything is made before anything is written, each picture once and on every processor; the folder is then put
        in place as a whole, with what else stands in it. A file that this program did not make is not written over
        without `replace`. `progress` is told what is being made.
        Raises RequestError or OutputError.
        """
        for name in formats:
            if name not in FORMATS:
                raise RequestError("The format", name, "one of " + ", ".join(FORMATS))
        root = Path(folder)
        if root.suffix.lower().removeprefix(".") in FORMATS and not root.is_dir():
            # A folder called page.html opens as a list of files.
            raise OutputError(str(root), "publish makes a folder, and this is the name of a file", "Use write for one.")
        check_folder(root)
        with keeping(self._wanted(formats), progress):
            made = self._files(formats, progress)
        return put_folder(root, made, replace=replace)

    @in_voice
    @_in_look
    def contents(
        self, formats: Sequence[str], progress: Callable[[str], None] = lambda _: None
    ) -> list[tuple[Path, bytes]]:
        """What `publish` writes, not written: the files with their paths in the folder. Raises RequestError,
        OutputError."""
        with keeping(self._wanted(formats), progress):
            return self._files(formats, progress)

    def cell_files(self) -> list[tuple[Path, bytes]]:
        """The figures behind every chart, as CSV."""
        return [
            (Path("cells") / f"{place:02d}-{file_name(section.id)}.csv", frame_bytes(section.chart.data))
            for place, section in enumerate(self.model.sections, start=1)
            if section.chart is not None
        ]

    def _wanted(self, formats: Sequence[str]) -> dict[Key, Callable[[], Any]]:
        """What the formats need of every chart, each once."""
        ways = dict.fromkeys(way for name in formats if name in FORMATS for way in FORMATS[name].needs)
        charts = [section.chart for section in self.model.sections if section.chart is not None]
        return {(id(chart), way): partial(_rendered, chart, way) for chart in charts for way in ways}

    def _files(self, formats: Sequence[str], progress: Callable[[str], None]) -> list[tuple[Path, bytes]]:
        paths = []
        for kind, one in FORMATS.items():
            if kind in formats and one.file is not None:
                progress(f"making {one.file}")
                made = self._beside_pictures(formats) if kind == "md" else self.made(kind)
                paths.append((Path(one.file), made))
        for place, section in enumerate(self.model.sections, start=1):
            if section.chart is None:
                continue
            stem = Path("charts") / f"{place:02d}-{file_name(section.id)}"
            if "png" in formats:
                paths.append((stem.with_name(stem.name + ".png"), section.chart.png()))
            if "svg" in formats:
                paths.append((stem.with_name(stem.name + ".svg"), section.chart.svg().encode("utf-8")))
        return paths

    def _beside_pictures(self, formats: Sequence[str]) -> bytes:
        """Markdown that shows the pictures in the folder beside it, where there are any."""
        pictures = {
            section.id: f"charts/{place:02d}-{file_name(section.id)}.png"
            for place, section in enumerate(self.model.sections, start=1)
            if section.chart is not None and "png" in formats
        }
        return FORMATS["md"].make(self.model, pictures)

    @in_voice
    @_in_look
    def files(
        self, targets: Sequence[Path], progress: Callable[[str], None] = lambda _: None
    ) -> list[tuple[Path, bytes]]:
        """Each target with what is to be written there, as its ending says. Raises RequestError, OutputError."""
        kinds = [target.suffix.lower().removeprefix(".") for target in targets]
        paths = []
        # A page as a picture needs none of its charts as one.
        with keeping(self._wanted([kind for kind in kinds if kind != "png"]), progress):
            for target, kind in zip(targets, kinds, strict=True):
                progress(f"making {target.name}")
                paths.append((target, self.made(kind)))
        return paths

    @in_voice
    def write(self, path: str | os.PathLike[str], *, replace: bool = False) -> Path:
        """Write one file, its format told by its ending: .html, .pdf, .pptx, .docx, .xlsx, .md, .eml, .png, .json or
        .csv. A file that this program did not make is not written over without `replace`.

        Raises RequestError for another ending, OutputError where it cannot be written.
        """
        target = Path(path)
        kind = target.suffix.lower().removeprefix(".")
        if f".{kind}" not in endings():
            raise RequestError("The ending of the output", target.suffix, f"one of {', '.join(endings())}")
        write_whole(target, self.made(kind), replace=replace)
        return target

    @in_voice
    def _repr_html_(self) -> str:
        """What the report says, and of which sections; the page itself would bring its own look into the notebook."""
        claims = [section.claim for section in self.model.sections if section.claim]
        told = self.model.summary.text
        return view(self.model.title, [*([told] if told else []), *claims], phrase=say)

    @made_visible
    def __repr__(self) -> str:
        return f"Report {self.model.title!r}: {len(self.model.sections)} sections\n{self.model.summary}"


def report(
    result: Any,
    title: str | None = None,
    *,
    subtitle: str | None = None,
    owner: str | None = None,
    colours: Mapping[str, str] | Palette | None = None,
    notes: Any = None,
) -> Report:
    """A report of a `Scan`, a `Change`, drivers or any other result; or of a brief, as it asks for it; or of a table
    what a manager expects without being asked.

    Of a table that is: the last complete period against the year before and the period before, with what changed and
    why; what happened over the longer run; what goes with the measure people worry about (the first average of which
    less is better that has clear drivers); what is to be expected; what to do; what to bear in mind.

    Parameters
    ----------
    result
        The result, a `Brief`, a `Table`, or anything `ga.read` takes.
    title
        The report's title; by default the result's own.
    subtitle, owner
        The line above the headline, and who answers for the report.
    colours
        Those of labels (`{"Outer Bar": "#1F5F99"}`) or a `Palette`, kept in every chart.
    notes
        Of a table: known circumstances (see `read_notes`), set beside what they overlap with.

    Returns
    -------
    Report
        Pages and files: `publish`, `save`, `html`. Figures that are missing stand as a dash.

    Raises
    ------
    RequestError
        A colour is none.
    """
    from ..reports.brief import Brief

    if isinstance(result, Brief):
        from .brief_report import brief_report

        return brief_report(result).report.titled(subtitle=subtitle, owner=owner)
    if not hasattr(result, "report"):
        from .table_report import table_report

        result = table_report(result, notes=notes)
    with sharing(colours if isinstance(colours, Palette) else Palette(colours)):
        report: Report = result.report(title)
    return report.titled(subtitle=subtitle, owner=owner)


def _rendered(chart: Chart, way: Way) -> Any:
    """A chart in one of the ways that formats need."""
    if way == OVERLAY:
        return overlay(chart)
    kind, wishes = way
    return getattr(chart, kind)(**dict(wishes))
