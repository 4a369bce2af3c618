"""The harbour office's workbook: four sheets, each with the diseases that real workbooks have.

The same bytes on every machine: only uniform random numbers and plain arithmetic, and fixed dates in the file.
"""

from __future__ import annotations

import io
from datetime import date, datetime, timedelta
from typing import Any

import numpy as np

_SEED = 20_251_020
_QUAYS = ("North Quay", "South Quay", "Old Mole")
_VESSELS = ("Tern", "Gannet", "Puffin", "Curlew", "Fulmar", "Kittiwake", "Petrel", "Sandpiper", "Shearwater")
_MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep")


def workbook() -> bytes:
    """The workbook as xlsx. What it holds, once mended, is `dues()`, `tonnage()`, `moorings()` and `vessels()`."""
    import xlsxwriter

    buffer = io.BytesIO()
    book = xlsxwriter.Workbook(buffer, {"in_memory": True})
    book.set_properties({"created": datetime(2025, 10, 20), "author": "Pellow Sound harbour office (made up)"})
    bold = book.add_format({"bold": True})
    middle = book.add_format({"bold": True, "align": "center"})
    _moorings(book.add_worksheet("Moorings"), bold)
    _dues(book.add_worksheet("Quay dues"), bold, middle)
    _tonnage(book.add_worksheet("Tonnage"), bold)
    _vessels(book.add_worksheet("Vessels"), bold)
    book.close()
    return buffer.getvalue()


def moorings() -> list[tuple[Any, ...]]:
    """Day, vessel, quay, hours, fee, night: 240 moorings, as they should come out."""
    chance = np.random.Generator(np.random.PCG64(_SEED)).random((240, 5)).tolist()
    rows = []
    for place, (a, b, c, d, e) in enumerate(chance):
        day = date(2025, 1, 2) + timedelta(days=place)
        hours = None if d < 0.03 else 1 + int(20 * c)
        fee = round(40 + 900 * e, 2)
        rows.append((day, _VESSELS[int(9 * a)], _QUAYS[int(3 * b)], hours, fee, e > 0.7))
    return rows


def dues() -> list[tuple[str, date, float, float, int, int]]:
    """Quay, month, dues paid and open, large and small ships."""
    chance = iter(np.random.Generator(np.random.PCG64(_SEED + 1)).random(200).tolist())
    return [
        (quay, date(2025, month, 1), round(4000 + 9000 * next(chance), 2), round(900 * next(chance), 2),
         3 + int(9 * next(chance)), 10 + int(40 * next(chance)))
        for quay in _QUAYS
        for month in range(1, 10)
    ]  # fmt: skip


def tonnage() -> list[tuple[str, list[int]]]:
    """Goods and their tons from January to September."""
    chance = iter(np.random.Generator(np.random.PCG64(_SEED + 2)).random(200).tolist())
    return [
        (goods, [100 + int(800 * next(chance)) for _ in _MONTHS])
        for goods in ("Fish", "Fuel", "Parcels", "Timber", "Gravel")
    ]


def vessels() -> list[tuple[str, str, str, int]]:
    """Register number (with its noughts), name, price in two currencies, year built."""
    return [
        (f"00{410 + 7 * place}", name, f"€{2 + place}.4 m" if place % 2 else f"£{1 + place}.9 m", 1988 + 4 * place)
        for place, name in enumerate(_VESSELS)
    ]


def _moorings(sheet: Any, bold: Any) -> None:
    """Dates and numbers kept as text, spellings of nothing, misspelt labels, a row entered twice, a total."""
    slips = {17: "north quay", 61: "North  Quay", 120: "Sout Quay", 201: "Old Mole "}
    for column, name in enumerate(("Date", "Vessel", "Quay", "Hours", "Fee", "Night")):
        sheet.write(0, column, name, bold)
    row = 1
    for place, (day, vessel, quay, hours, fee, night) in enumerate(moorings()):
        cells = [
            f"{day.day:02d}/{day.month:02d}/{day.year}",
            vessel,
            slips.get(place, quay),
            "n/a" if hours is None else str(hours),
            f"{_german(fee)} €",
            "yes" if night else "no",
        ]
        for _ in range(2 if place == 99 else 1):
            for column, text in enumerate(cells):
                sheet.write_string(row, column, text)
            row += 1


def _dues(sheet: Any, bold: Any, middle: Any) -> None:
    """Titles, headings over two rows, merged cells, subtotals, a total, a footnote."""
    sheet.merge_range(0, 0, 0, 5, "Harbour office: quay dues 2025", bold)
    sheet.write(1, 0, "Printed 20 October 2025")
    sheet.write(3, 0, "Quay", bold)
    sheet.write(3, 1, "Month", bold)
    sheet.merge_range(3, 2, 3, 3, "Dues", middle)
    sheet.merge_range(3, 4, 3, 5, "Ships", middle)
    for column, name in ((2, "paid"), (3, "open"), (4, "large"), (5, "small")):
        sheet.write(4, column, name, bold)
    row, rows = 5, dues()
    for quay in _QUAYS:
        own = [row for row in rows if row[0] == quay]
        sheet.merge_range(row, 0, row + len(own) - 1, 0, quay)
        for _, month, paid, unpaid, large, small in own:
            sheet.write_string(row, 1, f"{_MONTHS[month.month - 1]} 2025")
            for column, value in ((2, paid), (3, unpaid), (4, large), (5, small)):
                sheet.write_number(row, column, value)
            row += 1
        row = _sum_row(sheet, row, f"Subtotal {quay}", own)
    row = _sum_row(sheet, row, "Total", rows)
    sheet.write(row + 1, 0, "* open: invoiced and not yet paid")


def _sum_row(sheet: Any, row: int, label: str, rows: list[tuple[str, date, float, float, int, int]]) -> int:
    sheet.write_string(row, 0, label)
    for column in (2, 3, 4, 5):
        sheet.write_number(row, column, round(sum(row[column] for row in rows), 2))  # type: ignore[misc]
    return row + 1


def _tonnage(sheet: Any, bold: Any) -> None:
    """Periods across the columns, and a total below."""
    sheet.write(0, 0, "Goods", bold)
    for column, month in enumerate(_MONTHS, start=1):
        sheet.write_string(0, column, f"{month} 2025", bold)
    rows = tonnage()
    for row, (goods, tons) in enumerate(rows, start=1):
        sheet.write_string(row, 0, goods)
        for column, value in enumerate(tons, start=1):
            sheet.write_number(row, column, value)
    sheet.write_string(len(rows) + 1, 0, "All goods (total)")
    for column in range(1, len(_MONTHS) + 1):
        sheet.write_number(len(rows) + 1, column, sum(tons[column - 1] for _, tons in rows))


def _vessels(sheet: Any, bold: Any) -> None:
    """Numbers with noughts in front, two currencies in one column, a column of one value, a blank heading."""
    for column, name in enumerate(("Register", "Name", "Price", "Built", "Flag")):
        sheet.write(0, column, name, bold)
    for row, (register, name, price, built) in enumerate(vessels(), start=1):
        sheet.write_string(row, 0, register)
        sheet.write_string(row, 1, name)
        sheet.write_string(row, 2, price)
        sheet.write_number(row, 3, built)
        sheet.write_string(row, 4, "Pellow Sound")
        sheet.write_string(row, 5, "seen" if row % 2 else "")


def _german(value: float) -> str:
    """1234.5 → "1.234,50"."""
    return f"{value:,.2f}".replace(",", " ").replace(".", ",").replace(" ", ".")
