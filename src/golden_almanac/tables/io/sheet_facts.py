"""What a sheet says beside its values: hidden rows, cells with errors, merged ranges where the reader has none.

Read from the pages of the workbook by themselves, since opening it a second time in full would take ten times as long.
"""

from __future__ import annotations

import html
import re
import zipfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any

#: Pages larger than this when unpacked are not searched.
_MOST = 1_000_000_000
_HIDDEN = re.compile(rb'<row\b(?=[^>]*\shidden="(?:1|true)")[^>]*?\sr="(\d+)"')
_ERROR = re.compile(
    rb'<c\b(?=[^>]*\st="e")[^>]*?\sr="([A-Z]+)(\d+)"[^>]*>(?:(?!</c>).)*?<v>([^<]{1,20})</v>', re.DOTALL
)
_SHEET = re.compile(r"<(?:\w+:)?sheet\b[^>]*>")
_LINK = re.compile(r"<Relationship\b[^>]*>")


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetFacts:
    """Numbers of hidden rows; (row, column letters, text) of cells with errors; merged ranges, from 0;
    how far the cells reach, and a cell that lies beyond any sheet."""

    hidden: frozenset[int] = frozenset()
    errors: tuple[tuple[int, str, str], ...] = ()
    merged: tuple[tuple[tuple[int, int], tuple[int, int]], ...] = ()
    rows: int = 0
    columns: int = 0
    beyond: str = ""


NOTHING = SheetFacts()


def read(path: Path) -> dict[str, SheetFacts]:
    """Facts by the sheet's name; empty where the file is neither xlsx nor ods, or is not as expected."""
    try:
        with zipfile.ZipFile(path) as pack:
            if "content.xml" in pack.namelist():
                return _open_document(pack)
            return _open_xml(pack)
    except (zipfile.BadZipFile, KeyError, OSError, ValueError):
        return {}


def _open_xml(pack: zipfile.ZipFile) -> dict[str, SheetFacts]:
    links = {}
    for link in _LINK.findall(pack.read("xl/_rels/workbook.xml.rels").decode("utf-8", "replace")):
        target = _attribute(link, "Target").lstrip("/")
        links[_attribute(link, "Id")] = target if target.startswith("xl/") else f"xl/{target}"
    facts = {}
    for sheet in _SHEET.findall(pack.read("xl/workbook.xml").decode("utf-8", "replace")):
        page = links.get(_attribute(sheet, "r:id"))
        if page is None or page not in pack.namelist() or pack.getinfo(page).file_size > _MOST:
            continue
        content = pack.read(page)
        rows, columns, beyond = _reach(content)
        facts[_attribute(sheet, "name")] = SheetFacts(
            rows=rows,
            columns=columns,
            beyond=beyond,
            hidden=frozenset(int(number) for number in _HIDDEN.findall(content))
            if b" hidden=" in content
            else frozenset(),
            errors=tuple(
                (int(row), column.decode(), text.decode("utf-8", "replace"))
                for column, row, text in (_ERROR.findall(content) if b't="e"' in content else ())
            ),
        )
    return facts


#: What a sheet may have at most.
_MOST_ROWS, _MOST_COLUMNS = 1_048_576, 16_384
_FAR = re.compile(rb'<c\b[^>]*?\sr="([A-Z]{3,}\d+|[A-Z]+\d{7,})"')
_TWO = re.compile(rb'\sr="[A-Z]{2}\d')
_LAST = re.compile(rb'<(?:row|c)\b[^>]*?\sr="[A-Z]*(\d{1,12})"')


def _reach(content: bytes) -> tuple[int, int, str]:
    """How many rows and columns the cells of a page reach over (at most), and one that lies beyond any sheet. Only
    cells that stand far away are looked at one by one."""
    columns = 702 if _TWO.search(content) else 26
    # Rows come in their order: the last of them stand at the end.
    rows = max((int(number) for number in _LAST.findall(content[-200_000:])), default=0)
    for match in _FAR.finditer(content):
        letters = match[1].rstrip(b"0123456789")
        column, row = _column(letters), int(match[1][len(letters) :][:12])
        if row > _MOST_ROWS or column > _MOST_COLUMNS:
            return rows, columns, match[1].decode()[:20]
        columns, rows = max(columns, column), max(rows, row)
    return min(rows, _MOST_ROWS), columns, ""


def _column(letters: bytes) -> int:
    number = 0
    for letter in letters[:8]:
        number = 26 * number + letter - 64
    return number


def _attribute(tag: str, name: str) -> str:
    match = re.search(rf'\s{re.escape(name)}="([^"]*)"', tag)
    return html.unescape(match[1]) if match else ""


def _open_document(pack: zipfile.ZipFile) -> dict[str, SheetFacts]:
    from xml.etree import ElementTree

    if pack.getinfo("content.xml").file_size > _MOST:
        return {}
    facts: dict[str, SheetFacts] = {}
    name, row, column, told = "", 0, 0, False
    reach = [0, 0]
    hidden: set[int] = set()
    merged: list[tuple[tuple[int, int], tuple[int, int]]] = []
    with pack.open("content.xml") as stream:
        for event, node in ElementTree.iterparse(stream, events=("start", "end")):
            tag = node.tag.rpartition("}")[2]
            if event == "start" and tag == "table":
                name, row, hidden, merged = _of(node, "name", ""), 0, set(), []
                reach = [0, 0]
            elif event == "start" and tag == "table-row":
                column, told = 0, False
            elif event == "start" and tag in ("table-cell", "covered-table-cell"):
                down, across = int(_of(node, "number-rows-spanned", 1)), int(_of(node, "number-columns-spanned", 1))
                if down > 1 or across > 1:
                    merged.append(((row, column), (row + down - 1, column + across - 1)))
                column += int(_of(node, "number-columns-repeated", 1))
                if _of(node, "value-type", ""):
                    reach[1] = max(reach[1], column)
                    told = True
            elif event == "end" and tag == "table-row":
                repeated = int(_of(node, "number-rows-repeated", 1))
                if _of(node, "visibility", "visible") != "visible" and repeated < 1_000_000:
                    hidden |= set(range(row + 1, row + repeated + 1))
                row += repeated
                reach[0] = row if told else reach[0]
                node.clear()
            elif event == "end" and tag == "table":
                facts[name] = SheetFacts(
                    hidden=frozenset(hidden), merged=tuple(merged), rows=reach[0], columns=reach[1]
                )
                node.clear()
    return facts


def _of(node: Any, name: str, default: Any) -> Any:
    return next((value for key, value in node.attrib.items() if key.rpartition("}")[2] == name), default)
