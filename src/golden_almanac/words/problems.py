"""What was noticed in a table, for readers of a report.

In English the readiness check says it itself, with examples. In other languages each check has one sentence that names
the column and how many rows it concerns.
"""

from __future__ import annotations

from ..core.tables.problems import Problem
from . import numbers
from .languages import mark, say, voice

_SENTENCES = {
    "dates as numbers": mark("{column}: dates were kept as numbers and read as dates ({n} rows)."),
    "columns missing in a part": mark("{column}: the column is missing in a part of the data ({n} rows)."),
    "parts that repeat others": mark("Parts of the data repeat others ({n} rows)."),
    "spaces around texts": mark("{column}: spaces around texts were taken off ({n} rows)."),
    "merged cells": mark("Merged cells were found ({n} rows)."),
    "cells that do not fit": mark("{column}: cells that do not fit the column are left out ({n} rows)."),
    "sheets stacked": mark("Sheets with the same columns were put below each other ({n} rows)."),
    "several sheets": mark("The workbook has other sheets that were not read."),
    "hidden sheets": mark("The workbook has hidden sheets."),
    "error cells": mark("{column}: cells with an error are left out ({n} rows)."),
    "hidden rows": mark("Hidden rows were read like the others ({n} rows)."),
    "infinite values": mark("{column}: infinite values are left out ({n} rows)."),
    "header rows": mark("Several header rows were joined."),
    "rows around the table": mark("Rows around the table were set aside ({n} rows)."),
    "several blocks": mark("The sheet holds several tables; the largest was read."),
    "yes and no": mark("{column}: texts were read as yes and no ({n} rows)."),
    "time zones": mark("{column}: times with several time zones ({n} rows)."),
    "date order": mark("{column}: day and month could be taken for each other ({n} rows)."),
    "dates as text": mark("{column}: dates were kept as text and read as dates ({n} rows)."),
    "mixed units": mark("{column}: several units in one column ({n} rows)."),
    "numbers as text": mark("{column}: numbers were kept as text and read as numbers ({n} rows)."),
    "mixed types": mark("{column}: values of several types ({n} rows)."),
    "missing values": mark("{column}: values are missing ({n} rows)."),
    "encoding": mark("The file was read with another character encoding than usual."),
    "no headings": mark("The file has no headings; columns were numbered."),
    "totals among the rows": mark("Totals among the rows ({n}), so that nothing is counted twice they were set aside."),
    "numbers too large": mark("{column}: numbers too large to be added up; the column takes no part."),
    "stray dates": mark("{column}: dates far from all others ({n} rows)."),
    "dates to come": mark("{column}: dates in the future ({n} rows)."),
    "gaps in the dates": mark("{column}: gaps in the dates ({n})."),
    "unfinished period": mark("The last period is unfinished."),
    "periods across columns": mark("Columns that are periods were turned into rows ({n} rows)."),
    "texts that hold numbers or dates": mark(
        "{column}: texts that hold numbers or dates were left as texts ({n} rows)."
    ),
    "repeated rows": mark("Rows that repeat an earlier one ({n})."),
    "labels alike": mark("{column}: labels that may mean the same were kept apart ({n} rows)."),
    "join": mark("Tables were joined ({n} rows)."),
}


def sentence(one: Problem) -> str:
    """One thing noticed, as a sentence. A check without a phrase is told in English."""
    phrase = _SENTENCES.get(one.check)
    if voice().english or phrase is None:
        return one.message
    return say(phrase, column=one.column or "", n=numbers.whole(one.rows))
