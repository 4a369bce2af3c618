"""Clean tables, and the diseases that files give them: text in every dress, titles, totals, periods across columns.

`dressed` returns the cells of a file as texts, and what reading must be told (answers) to undo what no reader could.
"""

from __future__ import annotations

import csv
import io
import random
from dataclasses import dataclass, field
from datetime import date, timedelta

PLACES = ("Outer Bar", "Gannet Line", "Harbour Hop", "North Passage")
_MISSING = ("n/a", "-", "NULL", "#N/A", "k.A.", "(blank)", "")


@dataclass
class Clean:
    """A table as it should come out: a day, a place, an amount in money, a count, and whether it was cancelled."""

    rows: list[tuple[date, str, float, int | None, bool]]
    names: tuple[str, ...] = ("Day", "Place", "Revenue", "Guests", "Cancelled")


@dataclass
class File:
    """The cells of a file, and what is known of it."""

    cells: list[list[str]]
    said: list[str] = field(default_factory=list)


def clean(seed: int, rows: int) -> Clean:
    chance = random.Random(seed)
    first = date(2025, 1, 1) + timedelta(days=chance.randrange(300))
    made = []
    for place in range(rows):
        amount = round(chance.uniform(-200, 9000), 2)
        made.append(
            (
                first + timedelta(days=place),
                PLACES[place % len(PLACES)],
                amount,
                None if chance.random() < 0.1 else chance.randrange(1, 5000),
                chance.random() < 0.3,
            )
        )
    # Both answers, a filled count and an amount beyond a thousand with cents must be there, or nothing tells the type.
    made[0] = (made[0][0], made[0][1], 1234.56, 17, True)
    made[1] = (made[1][0], made[1][1], -12.5, 1200, False)
    return Clean(made)


def dressed(table: Clean, seed: int) -> File:
    """The table in a random dress."""
    chance = random.Random(seed)
    said = []

    def pick(name: str, *ways: str) -> str:
        way = chance.choice(ways)
        said.append(f"{name}: {way}")
        return way

    day_way = pick("days", "iso", "day first", "month first", "dots", "named", "german", "compact", "moments")
    money = pick("money", "plain", "english", "german", "swiss", "spaces", "brackets", "trailing minus", "euro", "kr")
    guests = pick("guests", "plain", "thousands", "unit", "padded")
    flags = pick("flags", "yes/no", "Ja/Nein", "TRUE/FALSE", "Y/N")
    gone = chance.choice(_MISSING)
    body = [
        [
            _day(day, day_way),
            place,
            _money(amount, money),
            gone if count is None else _count(count, guests, money),
            flags.split("/")[0 if cancelled else 1],
        ]
        for day, place, amount, count, cancelled in table.rows
    ]
    cells = [list(table.names), *body]
    if pick("total", "none", "total") == "total":
        money_sum = round(sum(row[2] for row in table.rows), 2)
        guest_sum = sum(row[3] or 0 for row in table.rows)
        cells.append(["", "Total", _money(money_sum, money), _count(guest_sum, guests, money), ""])
    if pick("around", "none", "titles and footnotes") != "none":
        cells = [["Harbour report"], [], *cells, [], ["* made up"]]
    return File(cells, said)


def as_csv(file: File, seed: int) -> bytes:
    """The file as text in a random delimiter and encoding."""
    chance = random.Random(seed)
    out = io.StringIO()
    csv.writer(out, delimiter=chance.choice(",;\t|"), lineterminator=chance.choice(("\n", "\r\n"))).writerows(
        file.cells
    )
    return out.getvalue().encode(chance.choice(("utf-8", "utf-8-sig", "utf-16", "cp1252")))


_MONTHS = "Jan Feb Mar Apr May Jun Jul Aug Sep Oct Nov Dec".split()
_GERMAN = "Januar Februar März April Mai Juni Juli August September Oktober November Dezember".split()


def _day(day: date, way: str) -> str:
    return {
        "iso": day.isoformat(),
        "day first": f"{day.day:02}/{day.month:02}/{day.year}",
        "month first": f"{day.month}/{day.day}/{day.year % 100:02}",
        "dots": f"{day.day}.{day.month}.{day.year}",
        "named": f"{day.day} {_MONTHS[day.month - 1]} {day.year}",
        "german": f"{day.day}. {_GERMAN[day.month - 1]} {day.year}",
        "compact": f"{day.year}{day.month:02}{day.day:02}",
        "moments": f"{day.isoformat()}T00:00:00",
    }[way]


def _money(amount: float, way: str) -> str:
    minus, size = "-" if amount < 0 else "", abs(amount)
    english = f"{size:,.2f}"
    german = english.replace(",", " ").replace(".", ",").replace(" ", ".")
    if way == "brackets":
        return f"({english})" if amount < 0 else english
    if way == "trailing minus":
        return f"{english}{minus}"
    return {
        "plain": f"{minus}{size:.2f}",
        "english": f"{minus}{english}",
        "german": f"{minus}{german}",
        "swiss": f"{minus}{english.replace(',', chr(39))}",
        "spaces": f"{minus}{english.replace(',', chr(160)).replace('.', ',')}",
        "euro": f"{minus}{german} €",
        "kr": f"NOK {minus}{english}",
    }[way]


def _count(count: int, way: str, money: str) -> str:
    grouped = f"{count:,}".replace(",", "." if money in ("german", "euro") else ",")
    # A lone "1.200" is a thousand only to those who know; with other separators in the column it can be told.
    return {
        "plain": str(count),
        "thousands": grouped if money not in ("german", "euro") else str(count),
        "unit": f"{count} pax",
        "padded": f"  {count} ",
    }[way]
