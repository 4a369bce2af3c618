"""`ga.write_brief`: a first brief of a source, commented, that runs as it stands."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path
from typing import Any

from ..aggregation import Survey
from ..aggregation.measures import Measure, lead_measure
from ..analysis.scan_pipeline import survey_of
from ..export.files import refuse_to_overwrite, write_all
from ..reports.brief_model import SCHEMA_NAME, brief_schema
from ..support.better_directions import better_way
from ..support.errors import RequestError
from ..tables import Table
from ..tables.meaning.row_nouns import row_noun
from .read import read

#: Measures and columns that a first brief names.
_MOST_MEASURES, _MOST_COLUMNS = 4, 5
#: Labels of a column up to which a report for each of them is suggested.
_FEW = 12
#: Columns whose names say that they are of a person.
_PERSONAL = ("name", "email", "mail", "phone", "address", "birth", "iban", "salary", "passport", "surname")


def write_brief(
    source: str | os.PathLike[str],
    path: str | os.PathLike[str] | None = None,
    *,
    replace: bool = False,
    progress: Callable[[str], None] = lambda _: None,
) -> Path:
    """Write a first brief of a source beside it, with the schema that editors check it by.

    Parameters
    ----------
    source
        A file that `ga.read` takes.
    path
        Where to write; by default the source's name with the ending .toml, in its folder.
    replace
        Write over a file that this program did not make.
    progress
        Called with a line of text: what is being done.

    Returns
    -------
    Path
        The brief. It runs as it stands; its comments say why each choice was made; missing values
        are told by `golden-almanac check`.

    Raises
    ------
    AlmanacError
        One of its subclasses, when the source cannot be read or the file not be written.
    """
    origin = Path(source)
    target = origin.with_suffix(".toml") if path is None else Path(path)
    if target.suffix.lower() != ".toml":
        raise RequestError("The brief", target.name, "a file with the ending .toml")
    table = read(origin, progress=progress)
    text = first_brief(table, os.path.relpath(origin, target.parent or "."))
    schema = target.with_name(SCHEMA_NAME)
    if not replace:
        refuse_to_overwrite(target, text.encode("utf-8"))
    write_all([(target, text.encode("utf-8")), (schema, brief_schema().encode("utf-8"))])
    return target


def first_brief(table: Table, source: str) -> str:
    """The text of a first brief."""
    survey = survey_of(table, measures=None, by=None, time=None, grain=None)
    lead = lead_measure(survey.measures)
    line = survey.timeline
    lines = [
        f"#:schema ./{SCHEMA_NAME}",
        f"# A first brief of {_plain(table.name)}. It runs as it stands: golden-almanac publish THIS FILE",
        "# Editors that know TOML schemas check it by the first line, and complete its keys.",
        "",
        f"title = {_text(_title(table.name))}",
        '# owner = "Who answers for it"',
        'audience = "manager"             # board: a glance; manager: a minute; analyst: a page',
        f"source = {_text(source)}",
    ]
    noun = row_noun(table)
    lines.append(
        f"rows = {_text(noun)}    # what a row is: guessed from the names"
        if noun
        else '# rows = "orders"               # what a row is, many of them; the sentences say it then'
    )
    lines += ["", "# --- what is measured ---"]
    lines += _measures(survey, lead)
    lines += ["", "# --- by what it is broken down ---", *_columns(survey)]
    lines += ["", "# --- when ---"]
    if line is None:
        lines.append("# The table has no column of dates: nothing is told over time. Name one with time = …")
    else:
        lines += [
            f"time = {_text(line.column)}    # {_why_time(table, line.column)}",
            f'grain = "{line.grain.value}"                  # the finest that leaves enough rows in a period',
            'period = "last complete period"  # or 2025-Q3, "last 30 days"',
            f"# The data run from {line.first_day} to {line.last_day}"
            + ("; the last period is unfinished and is left out." if line.partial_last else "."),
            '# baseline = "year-ago"          # by default where the data reach so far, else the period before',
        ]
    lines += ["", "# --- what comes of it ---", 'formats = ["html", "pdf", "xlsx"]', 'out = "editions"']
    lines += _asks(table)
    lines += _further(survey)
    return "\n".join(lines) + "\n"


def _measures(survey: Survey, lead: Measure) -> list[str]:
    # What people worry about is an average whose better way its name tells; further amounts come behind.
    others = [one for one in survey.measures if one != lead]
    others.sort(key=lambda one: (one.additive, _way(one) != "down", _way(one) is None))
    ordered = [lead, *others][:_MOST_MEASURES]
    lines = []
    for one in ordered:
        columns = [part.column for _, part in one.top if part.column]
        column = survey.table.column(columns[0]) if columns and columns[0] in survey.table.names else None
        why = "the leading measure: what most is told about" if one == lead else ""
        if column is not None and column.because:
            why = "; ".join(text for text in (why, column.because) if text)
        elif column is not None and not why:
            why = "an amount: its rows are added up" if one.additive else "no amount: it is averaged"
        lines.append(f"# {_plain(one.name)}: {_plain(why or 'the number of rows')}")
    lines.append(f"measures = [{', '.join(_text(one.name) for one in ordered)}]")
    known = {one.name: _way(one) for one in ordered}
    told = {name: way for name, way in known.items() if way is not None}
    if told:
        pairs = ", ".join(f"{_text(name)} = {_text(way)}" for name, way in told.items())
        lines.append(f"better = {{ {pairs} }}    # guessed from the names: say so if it is the other way round")
    return lines


def _way(measure: Measure) -> str | None:
    return better_way([measure.name, *(part.column for _, part in measure.top)])


def _columns(survey: Survey) -> list[str]:
    kept = list(survey.dimensions)[:_MOST_COLUMNS]
    if not kept:
        return ["# There is no column to break down by."]
    lines = [f"# {_plain(one.name)}: {one.distinct} labels" for one in kept]
    lines.append(f"by = [{', '.join(_text(one.name) for one in kept)}]")
    left = [one.name for one in survey.dimensions[_MOST_COLUMNS:]]
    if left:
        lines.append(f"# Left out so that the report stays short: {_plain(', '.join(left))}")
    return lines


def _why_time(table: Table, name: str) -> str:
    from ..tables import Role

    others = [one.name for one in table.with_role(Role.TIME) if one.name != name]
    return (
        f"the best filled column of dates (there are also {_plain(', '.join(others))})"
        if others
        else "the column of dates"
    )


def _asks(table: Table) -> list[str]:
    """Questions that the table puts, as answers to fill in; columns that look personal."""
    lines = []
    asked = [problem for problem in table.problems if problem.question is not None]
    if asked:
        lines += ["", "# --- questions that golden-almanac check puts ---"]
        for problem in asked:
            question = problem.question
            assert question is not None
            lines.append(_plain(f"# {question.option}: one of {', '.join(question.choices)}"))
        lines.append("# [answers]")
    personal = [one.name for one in table.columns if any(word in one.name.lower().split("_") for word in _PERSONAL)]
    if personal:
        lines += [
            "",
            f"private = [{', '.join(map(_text, personal))}]    # their names look personal: they reach no output",
        ]
    return lines


def _further(survey: Survey) -> list[str]:
    """What may be said besides, as comments that only want their mark taken away."""
    lead = lead_measure(survey.measures)
    few = next((one.name for one in survey.dimensions if one.distinct <= _FEW), None)
    lines = [
        "",
        "# --- what else may be said (take the # away) ---",
        '# notes = "notes.csv"             # what people know: from, to, note, and columns for scope',
        "# minimum_group = 5               # labels of fewer rows are put together",
    ]
    if few is not None:
        lines.append(f"# slices = {_text(few)}    # a report of its own for each of its labels")
    lines += [
        "",
        "# [[alert]]                       # the run ends with status 1 when it holds",
        '# name = "Out of the ordinary"',
        f"# unusual = {_text(lead.name)}",
        "",
        "# [[section]]                     # a section changed, dropped or added",
        '# kind = "seasonality"',
        "# drop = true",
    ]
    return lines


def _plain(text: str) -> str:
    """A text within a comment: on its line."""
    return "".join(letter if letter.isprintable() else " " for letter in text)


def _title(name: str) -> str:
    words = Path(name).stem.replace("_", " ").replace("-", " ")
    return words[:1].upper() + words[1:]


def _text(text: Any) -> str:
    """A text as TOML has it: a basic string, with everything that is not plain escaped."""
    escaped = "".join(
        f"\\{letter}" if letter in '"\\' else letter if letter.isprintable() else f"\\u{ord(letter):04X}"
        for letter in str(text)
    )
    return f'"{escaped}"'
