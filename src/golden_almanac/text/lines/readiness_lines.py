"""Whether a table is fit to report from, on the screen: the verdict, then questions, repairs, notes, columns."""

from __future__ import annotations

from collections.abc import Sequence

from ...tables import Column, Role, Table, Timeline
from ...tables.joins import Tables
from ...tables.meaning.natures import Nature
from ...tables.problems import Problem, Question
from .. import numbers
from ..core_sentences import retold
from ..languages import count, mark, say
from .line_pieces import BLANK, Line, bullet, line
from .meaning_lines import meaning, nature_of

#: Letters of an example that are shown, and of a column's name.
_EXAMPLE, _NAME = 60, 30
_TITLES = {
    "blocker": mark("Must be mended first"),
    "question": mark("Awaiting your answer"),
    "repair": mark("Mended"),
    "note": mark("Good to know"),
}
#: Roles and types of columns, as the core names them.
_ROLES = {
    "time": mark("time", "role"),
    "dimension": mark("dimension", "role"),
    "part of a date": mark("part of a date", "role"),
    "measure": mark("measure", "role"),
    "key": mark("key", "role"),
    "text": mark("text", "role"),
    "ignored": mark("ignored", "role"),
}
_TYPES = {
    "number": mark("number", "type"),
    "date": mark("date", "type"),
    "datetime": mark("datetime", "type"),
    "text": mark("text", "type"),
    "boolean": mark("boolean", "type"),
    "duration": mark("duration", "type"),
    "nested": mark("nested", "type"),
    "empty": mark("empty", "type"),
}


def readiness_headline(table: Table, problems: Sequence[Problem]) -> str:
    """One sentence: fit or not, how many repairs and questions."""
    blockers, questions, repairs = (
        sum(problem.severity == name for problem in problems) for name in ("blocker", "question", "repair")
    )
    places = {"rows": numbers.whole(table.rows), "columns": len(table.columns), "table": table.name}
    if blockers:
        return count(
            blockers,
            "{rows} rows and {columns} columns of {table} cannot be reported from yet: {n} blocker.",
            "{rows} rows and {columns} columns of {table} cannot be reported from yet: {n} blockers.",
            n=numbers.whole(blockers),
            **places,
        )
    if not questions and not repairs:
        return say("{rows} rows and {columns} columns of {table} are fit to report from as they stand.", **places)
    made = count(repairs, "{n} repair was made", "{n} repairs were made", n=numbers.whole(repairs))
    open_ = count(
        questions, "{n} question awaits an answer", "{n} questions await an answer", n=numbers.whole(questions)
    )
    if not questions:
        return say("{rows} rows and {columns} columns of {table} are fit to report from: {made}.", made=made, **places)
    if not repairs:
        return say(
            "{rows} rows and {columns} columns of {table} are fit to report from, but {open}.", open=open_, **places
        )
    return say(
        "{rows} rows and {columns} columns of {table} are fit to report from: {made}, {open}.",
        made=made,
        open=open_,
        **places,
    )


def readiness_lines(
    table: Table, problems: Sequence[Problem], key: Sequence[str] | None, timeline: Timeline | None = None
) -> list[Line]:
    """The verdict, what the table means, each problem with its question and examples, then the columns; `key` tells one
    row from another."""
    told = [line(readiness_headline(table, problems), "bold")]
    told += [BLANK, line(" ".join(meaning(table, key, timeline)))]
    for severity, title in _TITLES.items():
        own = [problem for problem in problems if problem.severity == severity]
        if own:
            told += [BLANK, line(f"{say(title)} ({len(own)})", "bold")]
        for one in own:
            told += _problem(one)
    rows = {"n": numbers.whole(table.rows), "aside": numbers.whole(len(table.aside))}
    kept = (
        say("Columns ({n} rows kept, {aside} of the file set aside)", **rows)
        if table.aside
        else say("Columns ({n} rows kept)", **rows)
    )
    told += [BLANK, line(kept, "bold")]
    return [*told, *(_column(column) for column in table.columns)]


def _problem(problem: Problem) -> list[Line]:
    message = retold(problem.message)
    told = [bullet(message)]
    if problem.question is not None:
        text = retold(problem.question.text)
        told += [line(text, indent=4)] if text not in message else []
        told += [line(_answer(problem.question), "accent", 4)] if problem.question.option is not None else []
    if problem.examples:
        shown = (
            say("row {row}: {value}", row=numbers.whole(row), value=retold(value).replace("\n", " ")[:_EXAMPLE])
            for row, value in problem.examples
        )
        told.append(line("; ".join(shown), "dim", 4))
    return told


def _answer(question: Question) -> str:
    """The option that answers a question, with the other choices, which are keys and so the same in all languages."""
    others = ", ".join(f'"{choice}"' for choice in question.choices[1:])
    told = say("Answer with  {option}", option=question.option)
    return told + (f"  ({say('or {others}', others=others)})" if others else "")


def _column(column: Column) -> Line:
    role = say(_ROLES[column.role.value], "role")
    if nature := nature_of(column):
        role = say("{role}: {what}", role=role, what=nature)
    unit = f" ({column.unit})" if column.unit else ""
    facts = [say(_TYPES.get(column.type, column.type), "type"), say("{n} distinct", n=numbers.whole(column.distinct))]
    facts += [say("{n} missing", n=numbers.whole(column.missing))] if column.missing else []
    # Of a plain amount, and of yes and no, nobody asks why.
    plain = column.nature == Nature.FLOW or column.type == "boolean"
    if column.because and not plain and column.role in (Role.MEASURE, Role.KEY, Role.PART):
        facts.append(retold(column.because))
    return line(f"{column.name[:_NAME]:<{_NAME + 1}}{role}{unit}; {', '.join(facts)}", indent=2)


def links_lines(tables: Tables) -> list[Line]:
    """Several tables and the keys between them."""
    keys = len(tables.links)
    told = count(keys, "{n} key", "{n} keys", n=keys) if keys else say("no key")
    head = say("{n} tables, {keys} between them", n=len(tables), keys=told)
    rows = (
        say(
            "{table}: {rows} rows, {columns} columns",
            table=name,
            rows=numbers.whole(table.rows),
            columns=len(table.columns),
        )
        for name, table in tables.items()
    )
    return [line(head, "bold"), *(line(text, indent=2) for text in rows), *map(bullet, map(retold, tables.sentences()))]
