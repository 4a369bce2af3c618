"""The report as a workbook: a sheet for each section with its data, a native chart and sentences that are formulas, so
that a corrected cell moves figure, chart and sentence together; the summary refers to those sheets."""

from __future__ import annotations

import datetime
import io
import re
from typing import Any

from ..charts import theme
from ..charts.chart import MADE_BY
from ..charts.look import worn
from ..charts.marks import lit_rows
from ..reports import KeyFigure, Report, Section
from ..reports.page_model import shown_edition
from ..text import page_labels
from ..text.languages import joined, phrase
from .office_parts import clean, steady
from .sentence_formulas import Cells, literals, live

_MOST_ROWS = 5000
#: Points of a picture for each of those that a workbook counts, which takes it for 96 an inch.
_DENSITY = theme.DPI / 96


def render(report: Report) -> bytes:
    """The workbook's bytes, the same on every run. Text is written as text: nothing in a label becomes a formula."""
    import xlsxwriter

    buffer = io.BytesIO()
    book = xlsxwriter.Workbook(
        buffer, {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False, "nan_inf_to_errors": False}
    )
    book.set_properties(
        {
            "title": clean(report.title, 200),
            "author": clean(report.owner, 100),
            "keywords": MADE_BY,
            "created": datetime.datetime(2000, 1, 1),
        }
    )
    look = {
        "head": book.add_format({"bold": True, "bottom": 1, "font_name": worn().sans}),
        "claim": book.add_format(
            {"bold": True, "font_size": 14, "font_name": worn().serif, "text_wrap": True, "valign": "top"}
        ),
        "text": book.add_format({"font_name": worn().sans, "text_wrap": True, "valign": "top"}),
        "figure": book.add_format({"font_name": worn().sans, "num_format": "#,##0.####"}),
        "share": book.add_format({"font_name": worn().sans, "num_format": "0.0%"}),
        "live": book.add_format(
            {"font_name": worn().sans, "text_wrap": True, "valign": "top", "font_color": worn().colour("accent")}
        ),
    }
    front = book.add_worksheet(page_labels.heading("summary"))
    names: list[tuple[Section, str, str]] = []
    taken = {page_labels.heading(which).lower() for which in ("summary", "evidence", "keys")}
    for place, section in enumerate(report.sections, start=1):
        name = _sheet_name(place, section.id, taken)
        live = _section(book, book.add_worksheet(name), name, section, look)
        names.append((section, name, live))
    keys = _keys(book, report, look)
    _front(front, report, names, keys, look)
    _evidence(book.add_worksheet(page_labels.heading("evidence")), report, look)
    book.close()
    return steady(buffer.getvalue())


def _sheet_name(place: int, text: str, taken: set[str]) -> str:
    # Without the digest that tells findings of one kind apart.
    plain = re.sub(r"-[0-9a-f]{10}$", "", text).replace("-", " ")
    name = f"{place} {re.sub(r'[^A-Za-z0-9 ]', ' ', plain)[:24]}".strip()
    taken.add(name.lower())
    return name


def _keys(book: Any, report: Report, look: dict[str, Any]) -> dict[str, Cells]:
    """A sheet with the series behind the figures of the opening row; where each of them stands, by its name."""
    told = [key for key in report.keys if len(key.spark) == len(key.periods) > 1]
    if not told:
        return {}
    name = page_labels.heading("keys")
    sheet = book.add_worksheet(name)
    _printed(sheet)
    sheet.set_column(0, 2 * len(told), 16)
    sheet.freeze_panes(1, 0)
    places = {}
    for place, key in enumerate(told):
        label, figure = 2 * place, 2 * place + 1
        sheet.write_string(0, label, page_labels.column("period"), look["head"])
        sheet.write_string(0, figure, clean(key.name, 200), look["head"])
        for row, (period, value) in enumerate(zip(key.periods, key.spark, strict=True), start=1):
            sheet.write_string(row, label, period, look["text"])
            sheet.write_number(row, figure, value, look["figure"])
        places[key.name] = Cells(sheet=name, letters={"value": _letter(figure)}, first=2)
    return places


def _front(
    sheet: Any, report: Report, names: list[tuple[Section, str, str]], keys: dict[str, Cells], look: dict[str, Any]
) -> None:
    _printed(sheet)
    sheet.set_column(0, 0, 78)
    sheet.set_column(1, 1, 62)
    sheet.set_column(2, 3, 18)
    _told(sheet, 0, clean(shown_edition(report)), look)
    sheet.merge_range(1, 0, 1, 1, "", look["claim"])
    headline = report.summary.headline
    first = next((key for key in report.keys if key.name in keys), None)
    at = {clean(section.claim): name for section, name, _ in names}

    def of_sheets(text: str) -> str:
        """A sentence as a formula: that of its sheet, or over the cells of the leading figure; "" where neither tells
        it."""
        if clean(text) in at:
            return f"='{at[clean(text)]}'!A1"
        if first is None:
            return ""
        cells = keys[first.name]
        return live(text, first.figures, first.sources, cells, _now(first, cells, name=True))

    _written(sheet, 1, 0, clean(headline), of_sheets(headline), look["claim"])
    sheet.set_row(1, 40)
    row = 3
    for place, text in enumerate(report.summary.bullets):
        _told(sheet, row, clean(text), look)
        # Which month it was follows the headline: only where the latest figure is not the headline itself.
        formula = of_sheets(text) if clean(text) in at or not place else ""
        if formula:
            sheet.write_formula(row, 0, formula, look["text"], clean(text))
        row += 1
    for key in report.keys:
        row += 1
        _told(sheet, row, clean(key.name), look)
        _figure_cells(sheet, row, key, keys.get(key.name), look)
        both = joined(" · ", [key.value, key.change])
        formula = ""
        if key.name in keys:
            formula = live(both, key.figures, key.sources, keys[key.name], _now(key, keys[key.name]))
        _written(sheet, row, 1, clean(both), formula, look["live"] if formula else look["text"])
    row += 2
    for place, word in enumerate((page_labels.heading("claim"), page_labels.heading("live"))):
        sheet.write_string(row, place, word, look["head"])
    for section, name, formula in names:
        row += 1
        _told(sheet, row, clean(section.claim), look, least=2)
        sheet.write_formula(row, 0, f"='{name}'!A1", look["text"], clean(section.claim))
        if formula:
            sheet.write_formula(row, 1, f"='{name}'!{formula}", look["live"], "")
    row += 2
    for which, texts in (("steps", report.steps), ("caveats", report.caveats), ("made", report.made)):
        if not texts:
            continue
        sheet.write_string(row, 0, page_labels.heading(which), look["head"])
        for text in texts:
            row += 1
            _told(sheet, row, clean(text), look)
        row += 2


def _figure_cells(sheet: Any, row: int, key: KeyFigure, cells: Cells | None, look: dict[str, Any]) -> None:
    """A key figure as a number that can be reckoned with, and its series as a spark line."""
    if cells is None:
        return
    source = key.sources.get("value")
    shape = look["share"] if key.value.rstrip().endswith("%") else look["figure"]
    value = float(key.figures.get("value", key.spark[-1]))
    if source is not None:
        sheet.write_formula(row, 2, f"={source.term.formula(cells)}", shape, value)
    else:
        sheet.write_number(row, 2, value, shape)
    accent = worn().colour("accent")
    sheet.add_sparkline(
        row, 3, {"range": cells.span("value", 0, len(key.spark)), "series_color": accent, "last_point": True}
    )


def _now(key: KeyFigure, cells: Cells, *, name: bool = False) -> str:
    """What the cells of a key figure say now, as a formula without its equals sign; "" where they do not give it."""
    value, change = key.sources.get("value"), key.sources.get("change_pct")
    if value is None:
        return ""
    parts = [*(literals(f"{key.name}: ") if name else []), f"FIXED({value.term.formula(cells)},2)"]
    if change is not None:
        parts += [*literals(" ("), f"FIXED({change.term.formula(cells)},1)", *literals("%)")]
    return "&".join(parts)


def _written(sheet: Any, row: int, column: int, text: str, formula: str, look: Any) -> None:
    """A text, or the formula that gives it."""
    if formula:
        sheet.write_formula(row, column, formula, look, text)
    else:
        sheet.write_string(row, column, text, look)


def _told(sheet: Any, row: int, text: str, look: dict[str, Any], least: int = 1) -> None:
    """A text with room for its lines: not every program finds the height of a row by itself."""
    sheet.set_row(row, 15.5 * max(least, -(-len(text) // 76)))
    sheet.write_string(row, 0, text, look["text"])


def _printed(sheet: Any) -> None:
    sheet.hide_gridlines(2)
    sheet.set_landscape()
    sheet.set_paper(9)
    sheet.fit_to_pages(1, 0)


def _section(book: Any, sheet: Any, name: str, section: Section, look: dict[str, Any]) -> str:
    """One section's sheet; returns the cell of its live sentence, or ""."""
    _printed(sheet)
    sheet.merge_range(0, 0, 0, 8, "", look["claim"])
    sheet.write_string(0, 0, clean(section.claim), look["claim"])
    sheet.set_row(0, 38)
    sheet.write_string(1, 0, clean(section.detail), book.add_format({"font_name": worn().sans}))
    frame = section.table if section.chart is None else section.chart.data
    if frame is None:
        return ""
    frame = frame.head(_MOST_ROWS)
    numeric = [place for place, column in enumerate(frame.columns) if frame[column].dtype.kind in "fi"]
    first, last = 5, 4 + len(frame)
    for place, column in enumerate(frame.columns):
        sheet.write_string(4, place, clean(page_labels.column(str(column)), 200), look["head"])
        sheet.set_column(place, place, 22 if place not in numeric else 14)
        for row, value in enumerate(frame[column], start=first):
            if place in numeric:
                if value == value and abs(float(value)) != float("inf"):
                    sheet.write_number(row, place, float(value), look["figure"])
            else:
                sheet.write_string(row, place, clean(str(value), 500), look["text"])
    sheet.freeze_panes(5, 0)
    labels = [place for place in range(len(frame.columns)) if place not in numeric]
    if not numeric or not labels or len(frame) < 2 or section.chart is None:
        return ""
    if section.chart.kind in ("bars", "line"):
        _chart(book, sheet, name, section, labels[0], numeric, first, last)
    else:
        _picture(sheet, section)
    if section.chart.kind not in ("bars", "line") and not section.chart.sources:
        # Steps, bands and parts are no bars beside each other: of their largest and their sum nothing is to be said.
        return ""
    sentence = _live(section, labels[0], numeric[0], first, last)
    sheet.merge_range(2, 0, 2, 8, "", look["live"])
    sheet.write_formula(2, 0, sentence, look["live"], "")
    letters = {str(column): _letter(place) for place, column in enumerate(frame.columns)}
    formula = live(
        section.claim, section.figures, section.chart.sources, Cells(letters=letters, first=first + 1), sentence[1:]
    )
    _written(sheet, 0, 0, clean(section.claim), formula, look["claim"])
    return "A3"


def _live(section: Section, label: int, figure: int, first: int, last: int) -> str:
    """A sentence as a formula over the data. FIXED, not TEXT: its pattern does not depend on the reader's country."""
    assert section.chart is not None
    names = f"${_letter(label)}${first + 1}:${_letter(label)}${last + 1}"
    values = f"${_letter(figure)}${first + 1}:${_letter(figure)}${last + 1}"
    digits = f"IF(MAX(ABS(MAX({values})),ABS(MIN({values})))>=1000,0,2)"
    if section.chart.kind == "line":
        head, tail = f"INDEX({values},1)", f'LOOKUP(2,1/({values}<>""),{values})'
        return _formula(
            phrase("From {start} at the start to {end} at the end; highest {high} in {place}."),
            start=f"FIXED({head},{digits})",
            end=f"FIXED({tail},{digits})",
            high=f"FIXED(MAX({values}),{digits})",
            place=f"INDEX({names},MATCH(MAX({values}),{values},0))",
        )
    parts = {
        "high_label": f"INDEX({names},MATCH(MAX({values}),{values},0))",
        "high": f"FIXED(MAX({values}),{digits})",
        "low_label": f"INDEX({names},MATCH(MIN({values}),{values},0))",
        "low": f"FIXED(MIN({values}),{digits})",
        "total": f"FIXED(SUM({values}),{digits})",
    }
    ends = _quoted(phrase("Largest: {high_label} with {high}; smallest: {low_label} with {low}."), **parts)
    whole = _quoted(
        phrase("Largest: {high_label} with {high}; smallest: {low_label} with {low}; together {total}."), **parts
    )
    return f"=IF(MIN({values})<0,{ends},{whole})"


def _formula(phrase: str, **parts: str) -> str:
    return "=" + _quoted(phrase, **parts)


def _quoted(phrase: str, **parts: str) -> str:
    """A phrase as text of a formula, its places filled with what a formula reckons."""
    pieces = re.split(r"\{(\w+)\}", phrase)
    told = [parts[piece] if place % 2 else '"' + piece.replace('"', '""') + '"' for place, piece in enumerate(pieces)]
    return "&".join(piece for piece in told if piece != '""')


def _letter(place: int) -> str:
    return chr(ord("A") + place) if place < 26 else _letter(place // 26 - 1) + chr(ord("A") + place % 26)


def _chart(
    book: Any, sheet: Any, name: str, section: Section, label: int, numeric: list[int], first: int, last: int
) -> None:
    assert section.chart is not None
    line = section.chart.kind == "line"
    chart = book.add_chart({"type": "line" if line else "bar"})
    roles = (worn().colour(role) for role in ("accent", "context", "ink"))
    colours = (*roles, worn().categories[1])
    for place, colour in zip(numeric if line else numeric[:1], colours, strict=False):
        # One accent, the others grey, as on the page.
        wide = 2.25 if colour == worn().colour("accent") else 1.25
        look = {"line": {"color": colour, "width": wide}} if line else {"fill": {"color": colour}, "gap": 45}
        if not line:
            labels = {"value": True, "num_format": section.chart.number_format or "#,##0.##"}
            look |= {"data_labels": labels, **_lit(section)}
        chart.add_series(
            {
                "name": [name, 4, place],
                "categories": [name, first, label, last, label],
                "values": [name, first, place, last, place],
                **look,
            }
        )
    digits = {"num_format": section.chart.number_format} if section.chart.number_format else {}
    if line:
        highest = max((abs(value) for value in section.chart.data.iloc[:, numeric[0]].dropna()), default=0.0)
        # A rate ends at all of it.
        ends = {"max": 1} if section.chart.number_format.endswith("%") and 0.5 < highest <= 1 else {}
        rules = {"visible": True, "line": {"color": worn().colour("rule")}}
        chart.set_y_axis({**digits, **ends, "major_gridlines": rules})
    chart.set_title({"none": True})
    chart.set_legend({"position": "top"} if line and len(numeric) > 1 else {"none": True})
    if not line:
        chart.set_y_axis({"reverse": True, "label_position": "low"})
        chart.set_x_axis({"major_gridlines": {"visible": False}, "visible": False})
    chart.set_size({"width": 720, "height": 400})
    sheet.insert_chart(
        4, len(section.chart.data.columns) + 1, chart, {"description": clean(section.chart.alternative, 900)}
    )


def _lit(section: Section) -> dict[str, Any]:
    """Which bars are set off: those of the page."""
    assert section.chart is not None
    lit = lit_rows(section.chart.marks)
    if not lit:
        return {}
    rows = range(min(len(section.chart.data), _MOST_ROWS))
    context, accent = worn().colour("context"), worn().colour("accent")
    return {
        "fill": {"color": context},
        "points": [{"fill": {"color": accent if row in lit else context}} for row in rows],
    }


def _picture(sheet: Any, section: Section) -> None:
    """What no native chart can show as it is: steps, bands, panels, points."""
    assert section.chart is not None
    content = section.chart.png(title=False)
    # The width of a picture stands behind the first sixteen bytes of a PNG.
    wide = int.from_bytes(content[16:20], "big")
    sheet.insert_image(
        4, len(section.chart.data.columns) + 1, f"{section.id}.png",
        {"image_data": io.BytesIO(content), "x_scale": 720 / wide * _DENSITY, "y_scale": 720 / wide * _DENSITY,
         "description": clean(section.chart.alternative, 900)},
    )  # fmt: skip


def _evidence(sheet: Any, report: Report, look: dict[str, Any]) -> None:
    _printed(sheet)
    sheet.set_column(0, 0, 46)
    sheet.set_column(1, 3, 60)
    for place, word in enumerate(map(page_labels.heading, ("claim", "evidence", "query", "gives"))):
        sheet.write_string(0, place, word, look["head"])
    sheet.freeze_panes(1, 0)
    for row, section in enumerate(report.sections, start=1):
        told = "; ".join(f"{word}: {text}" for word, text in section.evidence)
        given = ", ".join(f"{name} = {value}" for name, value in section.expect)
        for place, text in enumerate((section.claim, told, section.sql, given)):
            sheet.write_string(row, place, clean(text, 8000), look["text"])
