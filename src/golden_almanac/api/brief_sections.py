"""Sections of a report as a brief asks for them: changed or dropped where they are there, and new ones."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, cast

from ..reports.brief import WISHES, Brief, subject
from ..reports.brief_model import IN_WORDS
from ..support.errors import RequestError
from ..tables import Table
from .ask import ask
from .beside_peers import peers
from .compare import compare
from .draw import draw
from .explain_change import explain_change
from .figures_at_a_glance import key_figures
from .find_drivers import find_drivers
from .follow_cohorts import cohorts
from .forecast import forecast
from .growth import growth
from .print_table import table_of
from .regress import regress
from .relate import relate
from .report import Report
from .review_books import review_ledger
from .scan import Scan
from .total import total

_Said = Mapping[str, Any]


def with_section(made: Report, section: Mapping[str, Any], brief: Brief, table: Table, scan: Scan) -> Report:
    """One section of the brief: a section that is there changed, or a new one."""
    about = subject(section)
    unasked = ("forecast", "forecast-figures")
    if about == "forecast" and set(unasked) <= set(made.ids):
        # What is asked for takes the place of what comes unasked.
        made = made.drop(*unasked)
    before = set(made.ids)
    if about in ("id", "kind"):
        ids = _ids(made, about, str(section[about]))
    else:
        made = _new(made, about, section, brief, table, scan)
        ids = [name for name in made.ids if name not in before]
    if section.get("drop"):
        return made.drop(*ids)
    for name in ids:
        made = _changed(made, name, section, scan, fresh=about not in ("id", "kind"))
    return made.first(*ids) if section.get("first") else made


def _ids(report: Report, about: str, wanted: str) -> list[str]:
    if about == "id":
        if wanted not in report.ids:
            raise RequestError.unknown("The section", wanted, report.ids, "sections")
        return [wanted]
    ids = [name for name in report.ids if name.split("-")[0] == wanted]
    if not ids:
        kinds = sorted({name.split("-")[0] for name in report.ids})
        raise RequestError("The kind of section", wanted, f"one of {', '.join(kinds)}")
    return ids


def _new(report: Report, about: str, section: _Said, brief: Brief, table: Table, scan: Scan) -> Report:
    what, where = str(section[about]), brief.get("where")
    kept = table.filter(where) if where else table
    if about == "note":
        return report.note(scan.fill(what))
    if about == "show":
        return report.table(scan.fill(what), kept.sql(str(section["sql"])))
    if about == "draw":
        wishes = {key: section[key] for key in (*WISHES, "by") if key in section}
        title = scan.fill(str(section.get("title", what)))
        return report.chart(draw(kept.sql(str(section["sql"])), what, title=title, **wishes))
    return report.add(_ANALYSES[about](kept, what, section, brief))


def _change(table: Table, what: str, section: _Said, brief: Brief) -> Any:
    period, baseline = (
        IN_WORDS.get(section[key], section[key]) if key in section else brief.span(key)
        for key in ("period", "baseline")
    )
    return explain_change(table, what, period=period, baseline=baseline)


def _regression(table: Table, what: str, section: _Said, _: Brief) -> Any:
    if not section.get("factors"):
        raise RequestError("The section regress", what, 'with factors = ["COLUMN", …]')
    return regress(table, what, section["factors"])


def _relation(table: Table, what: str, section: _Said, _: Brief) -> Any:
    if len(section.get("y", ())) != 1:
        raise RequestError("The section relate", what, 'with y = ["COLUMN"]')
    return relate(table, what, section["y"][0])


def _growth(table: Table, what: str, section: _Said, _: Brief) -> Any:
    return growth(table, what, _by(section, "growth", what))


def _cohorts(table: Table, what: str, section: _Said, brief: Brief) -> Any:
    if "active" not in section:
        raise RequestError("The section cohorts", what, 'with active = "COLUMN"')
    asked = {key: section[key] for key in ("joined", "measure", "by") if key in section}
    found = cohorts(table, what, section["active"], grain=brief.get("grain"), **asked)
    told = found.summary()
    return found.report().replace("cohorts", claim=told.headline, detail=told.text)


def _figures(table: Table, what: str, section: _Said, brief: Brief) -> Any:
    span = IN_WORDS.get(what, what)
    found = key_figures(table, section.get("measures"), period=span, grain=brief.get("grain"), steps=False)
    told = found.summary()
    return found.report().replace("key-figures", claim=told.headline, detail=told.text)


def _ledger(table: Table, what: str, section: _Said, brief: Brief) -> Any:
    asked = {key: section[key] for key in ("amount", "base") if key in section}
    found = review_ledger(table, what, period=brief.get("time"), grain=brief.get("grain"), **asked)
    page = found.report()
    # The headline stands above a page of its own; here it is the claim of its first section.
    return page.replace(page.ids[0], claim=found.headline) if page.ids else page


def _peers(table: Table, what: str, section: _Said, brief: Brief) -> Any:
    asked = {"name": section.get("company"), "size": section.get("like"), "category": section.get("category")}
    found = peers(brief.folder / what, table, section.get("measures"), **asked)
    told = found.summary()
    return found.report().replace("peers", claim=told.headline, detail=told.text)


def _table(table: Table, what: str, section: _Said, brief: Brief) -> Any:
    rows = [one.strip() for one in what.split(",")]
    measures = section.get("measures") or section.get("measure")
    found = table_of(table, rows, section.get("columns"), measures, time=brief.get("time"))
    told = found.summary()
    page = found.report().drop("table-drawn")
    return page.replace("table", claim=told.headline, detail=" ".join(found.caveats()))


def _comparison(table: Table, what: str, section: _Said, _: Brief) -> Any:
    return compare(table, what, _by(section, "compare", what))


def _by(section: _Said, about: str, what: str) -> str:
    if "by" not in section:
        raise RequestError(f"The section {about}", what, 'with by = "COLUMN"')
    return str(section["by"])


def _outlook(table: Table, what: str, section: _Said, brief: Brief) -> Any:
    periods, target = int(section.get("periods", 6)), section.get("target")
    outlook = forecast(table, what, periods, by=section.get("by"), grain=brief.get("grain"), target=target)
    page, told = outlook.report(), outlook.summary()
    alone = page.drop(*(name for name in page.ids if name != "forecast"))
    return alone.replace("forecast", claim=told.headline, detail=told.text)


def _answer(table: Table, what: str, _: _Said, __: Brief) -> Any:
    answer = ask(table, what)
    if answer.status != "answered":
        raise RequestError("The question", what, f"one that can be read for sure: {answer.summary().text}")
    return _led(answer)


def _total(table: Table, what: str, section: _Said, _: Brief) -> Any:
    return _led(total(table, what, by=section.get("by"), top=section.get("most")))


def _led(found: Any) -> Report:
    """A total's section with what its own page would say above it; its figures stand below the chart already."""
    page, told = found.report(), found.summary()
    if "total" not in page.ids:
        return cast(Report, page)
    alone = page.drop("figures") if "figures" in page.ids else page
    return cast(Report, alone.replace("total", claim=told.headline, detail=told.text))


_ANALYSES: Mapping[str, Callable[[Table, str, _Said, Brief], Any]] = {
    "ask": _answer,
    "change": _change,
    "cohorts": _cohorts,
    "compare": _comparison,
    "figures": _figures,
    "ledger": _ledger,
    "peers": _peers,
    "table": _table,
    "drivers": lambda table, what, section, _: find_drivers(table, what, section.get("factors")),
    "forecast": _outlook,
    "growth": _growth,
    "regress": _regression,
    "relate": _relation,
    "total": _total,
}


def _changed(made: Report, name: str, section: Mapping[str, Any], scan: Scan, *, fresh: bool) -> Report:
    if "title" in section:
        made = made.replace(name, claim=scan.fill(str(section["title"])))
    if "text" in section:
        made = made.replace(name, detail=scan.fill(str(section["text"])))
    wishes = {key: section[key] for key in WISHES if key in section}
    if not fresh and ("chart" in section or wishes):
        made = made.restyle(name, section.get("chart"), **wishes)
    if "size" in section:
        made = made.resize(name, float(section["size"]))
    return made.new_page(name) if section.get("new_page") else made
