"""`ga.conversation`: questions that follow each other, measures that people describe, answers that are kept."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from ..aggregation.measures import default_measures, lead_measure
from ..asking import Reading, read
from ..asking import next_questions as ideas
from ..asking.asked import Asked, Problem
from ..asking.definitions import Definition, defined
from ..asking.follow_up import carried
from ..asking.lexicon import lexicon
from ..asking.reader import line_of
from ..asking.requests import call_of
from ..asking.vocabulary import vocabulary
from ..findings import Finding
from ..support.errors import RequestError
from ..support.notebook_view import view
from ..tables import Table
from ..text import numbers
from ..text.summary import fit
from .answer_source import table_of
from .ask import Answer, answer_of
from .report import Report
from .result_language import voiced

_UNDO = re.compile(r"\s*(undo|go back|back|take that back)\s*[.!]?\s*", re.IGNORECASE)
_KEEP = re.compile(r"\s*(keep|save)( (this|it|that))?\s*[.!]?\s*", re.IGNORECASE)
_SCALE = re.compile(
    r"\s*(?:and\s+)?(?:show\s+(?:it|them|that)\s+)?in (thousands|millions|billions)(?: of [\w€$£]+)?\s*[.!?]?\s*",
    re.IGNORECASE,
)
_COLOUR = re.compile(r"\s*(?:make|colou?r|paint)\s+(.+?)\s+(?:in\s+)?(#[0-9a-f]{6}|[a-z]+)\s*[.!]?\s*", re.IGNORECASE)
#: Colours by name, of the house palette where it has them.
COLOURS = {
    "green": "#3B7A57", "blue": "#1F5F99", "red": "#B23A48", "orange": "#C8701A", "yellow": "#D9A514",
    "gold": "#A86A00", "purple": "#6C4A8D", "violet": "#6C4A8D", "pink": "#C25B8A", "brown": "#7A5230",
    "grey": "#7A7A7A", "gray": "#7A7A7A", "black": "#222222", "teal": "#2A7F80",
}  # fmt: skip


@dataclass(slots=True)
class Conversation:
    """Questions about one table; what is not said anew carries over. `answers` are all of them, `kept` those to
    publish, `definitions` the measures that were described and agreed to, `offered` the one that waits for consent."""

    table: Table
    joined: str = ""
    joins: tuple[str, ...] = ()
    answers: list[Answer] = field(default_factory=list)
    kept: list[Answer] = field(default_factory=list)
    definitions: dict[str, Definition] = field(default_factory=dict)
    offered: Definition | None = None

    def _repr_html_(self) -> str:
        return view(self.table.name, [f"{one.question}: {one.headline}" for one in self.answers])

    @property
    def last(self) -> Answer | None:
        """The answer that a follow-up starts from."""
        return next((one for one in reversed(self.answers) if one.asked is not None), None)

    def ask(self, question: str, *, yes: bool = False) -> Answer:
        """The answer to a question, or to a piece of one ("and by vessel?"). "undo" goes back, "keep this" keeps the
        last answer for `report`; `yes` agrees to a described measure at once. Never raises for a question."""
        if _UNDO.fullmatch(question):
            return self._undone(question)
        if _KEEP.fullmatch(question):
            return self._kept(question)
        wished = self._looks(question)
        if wished is not None:
            return self._answered(wished)
        described = self._described(question, yes)
        if described is not None:
            return described
        before = self.last
        reading = read(question, self.table, before=None if before is None else before.asked, defined=self._sql())
        return self._answered(reading)

    def accept(self) -> Definition:
        """Agree to the measure that was described last; from now on its name can be asked for. Raises
        RequestError where none waits."""
        if self.offered is None:
            raise RequestError("The measure", "nothing", "described first, such as “margin is revenue minus fuel cost”")
        self.definitions[self.offered.name] = self.offered
        made, self.offered = self.offered, None
        return made

    def undo(self) -> Answer | None:
        """Go back by one answer; the one that stands now."""
        if self.answers:
            self.answers.pop()
        return self.last

    def keep(self) -> Answer:
        """Keep the last answer as a section of the report. Raises RequestError where there is none."""
        if self.last is None or self.last.found is None:
            raise RequestError("The answer", "nothing", "asked for first")
        if self.last not in self.kept:
            self.kept.append(self.last)
        return self.last

    def report(self, title: str | None = None) -> Report:
        """What was kept, as one report. Raises RequestError where nothing was."""
        kept = [answer for answer in self.kept if answer.found is not None]
        if not kept:
            raise RequestError("The report", "nothing", "made of answers that were kept")
        made = [answer.report().model for answer in kept]
        sections = tuple(
            replace(section, id=f"{section.id}-{place}", part=answer.question.strip() if first == 0 else "")
            for place, (answer, model) in enumerate(zip(kept, made, strict=True), start=1)
            for first, section in enumerate(model.sections)
        )
        # Each answer is a line of the summary: the headline of one would stand for all.
        first, *others = [answer.sentence for answer in kept]
        model = replace(
            made[0], title=title or self.table.name, sections=sections, summary=fit(first, others, [], "long")
        )
        first_answer = kept[0]
        return Report(model=model, data=first_answer.to_dict, frame=first_answer.to_frame)

    def brief(self, source: str) -> str:
        """What was kept as a brief (TOML) over a source, to be published again and again; described measures are among
        its measures. Raises RequestError where nothing was kept that a brief can hold."""
        lines = [f"source = {_toml(source)}", f"title = {_toml(self.table.name)}"]
        if self.definitions:
            lead = [lead_measure(default_measures(self.table)).name]
            told = [f'{one.sql} AS "{one.name}"' for one in self.definitions.values()]
            lines.append(f"measures = [{', '.join(map(_toml, [*lead, *told]))}]")
        sections = [text for answer in self.kept if (text := _section(answer))]
        if not sections and not self.definitions:
            raise RequestError("The brief", "nothing", "made of answers that were kept: totals, changes, drivers")
        return "\n".join([*lines, *sections]) + "\n"

    def first_questions(self, most: int = 10, findings: Sequence[Finding] = ()) -> tuple[str, ...]:
        """Questions to begin with, of different kinds: from findings, where a scan is at hand, and from the columns."""
        return ideas.first(self.table, most, findings)

    # --- what is no question of the table -------------------------------------------------------------

    def _sql(self) -> dict[str, str]:
        return {name: one.sql for name, one in self.definitions.items()}

    def _answered(self, reading: Reading) -> Answer:
        before = self.last
        told: tuple[str, ...] = ()
        if before is not None and before.asked is not None and reading.asked is not None:
            told = carried(before.asked, reading.asked)
        answer = answer_of(self.table, reading, joined=self.joined, carried=told)
        self.answers.append(answer)
        return answer

    def _undone(self, question: str) -> Answer:
        if len([one for one in self.answers if one.asked is not None]) < 2:
            return self._said(question, "There is nothing to go back to.")
        while self.answers and self.answers[-1].asked is None:
            self.answers.pop()
        self.answers.pop()
        last = self.last
        assert last is not None
        return last

    def _kept(self, question: str) -> Answer:
        if self.last is None or self.last.found is None:
            return self._said(question, "There is no answer to keep.")
        return self.keep()

    def _said(self, question: str, why: str) -> Answer:
        return Answer(table=self.table, reading=Reading(question=question, problem=why, code="no answer"), found=None)

    def _looks(self, question: str) -> Reading | None:
        """ "in thousands of euro", "make Outer Bar green": the last answer, otherwise shown."""
        before = self.last
        if before is None or before.asked is None:
            return None
        scale = _SCALE.fullmatch(question)
        if scale is not None:
            return self._as(question, before.asked.but(scale=scale[1].lower()))
        colour = _COLOUR.fullmatch(question)
        if colour is None:
            return None
        label = " ".join(colour[1].split()).casefold()
        shade = COLOURS.get(colour[2].lower(), colour[2] if colour[2].startswith("#") else None)
        found = vocabulary(self.table, lexicon()).labels.get(tuple(label.split()))
        if shade is None or not found:
            return None
        kept = tuple(pair for pair in before.asked.colours if pair[0] != found[0][1])
        return self._as(question, before.asked.but(colours=(*kept, (found[0][1], shade))))

    def _as(self, question: str, asked: Asked) -> Reading:
        try:
            return Reading(question=question, asked=asked, call=call_of(asked, self.table, self._sql()))
        except Problem as problem:
            return Reading(question=question, problem=problem.why, code=problem.code)

    def _described(self, question: str, yes: bool) -> Answer | None:
        """A measure that is described: offered with its SQL and a row worked out, used only when agreed to."""
        known = vocabulary(self.table, lexicon())
        try:
            one = defined(question, self.table, known, line_of(self.table))
        except Problem as problem:
            return self._said(question, problem.why)
        if one is None:
            return None
        self.offered = one
        if yes:
            self.accept()
        return self._said(question, told_definition(one, agreed=yes))


def _section(answer: Answer) -> str:
    """A kept answer as a section of a brief; "" for what a brief has no section for."""
    call = answer.reading.call
    if call is None:
        return ""
    if call.name == "total" and answer.sql is not None:
        kind = answer.to_dict()["answer"].get("chart")
        what = f"draw = {_toml(kind)}" if kind else 'show = "table"'
        return f"\n[[section]]\n{what}\nsql = {_toml(answer.sql)}\ntitle = {_toml(answer.question.strip())}"
    if call.name == "forecast" and "where" not in call.arguments and "grain" not in call.arguments:
        told = {"forecast": _toml(str(call.arguments["measure"]))}
        if "periods" in call.arguments:
            told["periods"] = str(call.arguments["periods"])
        if "by" in call.arguments:
            told["by"] = _toml(str(call.arguments["by"]))
        return "\n".join(["\n[[section]]", *(f"{name} = {value}" for name, value in told.items())])
    about = {"explain_change": ("change", "measure"), "find_drivers": ("drivers", "outcome")}.get(call.name)
    if about is None or "where" in call.arguments:
        return ""
    return f"\n[[section]]\n{about[0]} = {_toml(str(call.arguments[about[1]]))}"


def _toml(text: str) -> str:
    """A text as TOML writes it; braces that would ask for a live value are set apart."""
    plain = text.replace("{{", "{ {").replace("}}", "} }")
    return json.dumps(plain, ensure_ascii=False)


def told_definition(one: Definition, *, agreed: bool) -> str:
    """What a described measure is, with a row worked out."""
    told = f"{one.name} = {one.sql}."
    if one.gives is not None:
        parts = ", ".join(f"{name} {numbers.figure(value, 10)}" for name, value in one.parts)
        told += f" Row {one.row}: {parts}; {one.name} {numbers.figure(one.gives, 6)}."
    return told + (" It can be asked for now." if agreed else " Shall it be used?")


@voiced
def conversation(source: Any, *, locale: str | None = None, names: Mapping[str, str] | None = None) -> Conversation:
    """A conversation about a table: `talk.ask("and by vessel?")` takes over what is not said anew.

    Parameters
    ----------
    source
        As for `ask`.
    locale, names
        The language of the answers, and what columns are called there (see `speaking`); of the caller by default.

    Returns
    -------
    Conversation
        With `ask`, `undo`, `keep`, `accept` and `report`; missing values are told as by the calls that answer.

    Raises
    ------
    AlmanacError
        One of its subclasses, where the source cannot be read.
    """
    table, joined, joins = table_of(source)
    return Conversation(table=table, joined=joined, joins=joins)
