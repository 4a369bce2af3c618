"""What people change in the words of an edition, and how the next edition keeps it.

The file of words is Markdown with a mark before each section. What a person rewrites, takes out, remarks or corrects is
told from what the file said when it was written; what is told of it is data, carried on from edition to edition.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from ..support.errors import SourceError

WORDS = "words.md"
#: How the keys of sections begin that people added.
ADDED = "added-"
_MARK = re.compile(r"^<!-- section (\S+) -->$")
_CORRECTION = re.compile(
    r"^> *Correction by (?P<who>[^:]{1,80}): *(?P<was>.{1,80}?) *(?:→|->) *(?P<now>.{1,80}?)"
    r"(?:,? +because +|[:;] +)(?P<why>.+)$"
)
_REMARK = re.compile(r"^> *(?:(?P<who>[A-Z][\w. -]{0,60}): +)?(?P<text>.+)$")
#: A number outside a live value.
_NUMBER = re.compile(r"\d")
_LIVE = re.compile(r"\{\{.*?\}\}")


@dataclass(frozen=True, slots=True, kw_only=True)
class Correction:
    """A figure corrected by hand: shown as such, with who and why."""

    who: str
    was: str
    now: str
    why: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Edit:
    """What people changed in one section: `claim` and `detail` as they wrote them (None: as they were), `dropped` where
    they took it out, `remarks` as (who, text). `figures` are those that the section had in the `edition` edited."""

    claim: str | None = None
    detail: str | None = None
    dropped: bool = False
    remarks: tuple[tuple[str, str], ...] = ()
    corrections: tuple[Correction, ...] = ()
    figures: Mapping[str, str] = field(default_factory=dict)
    edition: str = ""

    @property
    def hand_written(self) -> bool:
        """Whether it says a number, or words, that the data do not keep fresh."""
        return any(_NUMBER.search(_LIVE.sub("", text)) for text in (self.claim, self.detail) if text)

    def to_dict(self) -> dict[str, Any]:
        return {
            "claim": self.claim,
            "detail": self.detail,
            "dropped": self.dropped,
            "remarks": [list(one) for one in self.remarks],
            "corrections": [
                {"who": one.who, "was": one.was, "now": one.now, "why": one.why} for one in self.corrections
            ],
            "figures": dict(self.figures),
            "edition": self.edition,
        }

    @classmethod
    def of(cls, said: Mapping[str, Any]) -> Edit:
        return cls(
            claim=said["claim"],
            detail=said["detail"],
            dropped=said["dropped"],
            remarks=tuple((who, text) for who, text in said["remarks"]),
            corrections=tuple(Correction(**one) for one in said["corrections"]),
            figures=said["figures"],
            edition=said["edition"],
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Words:
    """One section as the file of words has it."""

    claim: str
    detail: str
    remarks: tuple[tuple[str, str], ...] = ()
    corrections: tuple[Correction, ...] = ()


def words_file(headline: str, sections: Sequence[tuple[str, Words]], edition: str) -> bytes:
    """The file of words of an edition."""
    help_text = (
        f"<!-- Golden Almanac: the words of the edition {edition}. Change sentences, take sections out, add a remark "
        '("> Ana: …") or a correction ("> Correction by Ana: 1.21 million → 1.24 million, because …"); a heading '
        "without a mark is a section of your own. The next edition keeps it. Values such as "
        "{{ revenue.value | amount }} stay fresh. -->"
    )
    lines = [f"# {_line(headline)}", "", help_text, ""]
    for key, one in sections:
        lines += [f"<!-- section {key} -->", f"## {_line(one.claim)}", ""]
        lines += [_plain(one.detail), ""] if one.detail else []
        lines += [f"> {f'{who}: ' if who else ''}{text}" for who, text in one.remarks]
        lines += [
            f"> Correction by {each.who}: {each.was} → {each.now}, because {each.why}" for each in one.corrections
        ]
        lines += [""] if one.remarks or one.corrections else []
    lines.append("<!-- Golden Almanac -->")
    return ("\n".join(lines) + "\n").encode("utf-8")


def _plain(text: str) -> str:
    """A text on its line that is none of the marks of this file, whatever a label in it begins with."""
    line = _line(text)
    return f"\\{line}" if re.match(r"[#>\\]|<!--", line) else line


def _line(text: str) -> str:
    return " ".join(text.split())


def read_words(text: str, name: str) -> tuple[dict[str, Words], list[Words]]:
    """The sections of a file of words by their key, and those that people added. Raises SourceError where a correction
    lacks who or why."""
    known: dict[str, Words] = {}
    added: list[Words] = []
    key: str | None = None
    place = 0
    lines = text.splitlines()
    while place < len(lines):
        line = lines[place].strip()
        mark = _MARK.match(line)
        if mark is not None:
            key = mark[1]
        elif line.startswith("## "):
            body = []
            place += 1
            while place < len(lines) and not lines[place].startswith(("## ", "<!-- ")):
                body.append((place + 1, lines[place].strip()))
                place += 1
            made = _section(line.removeprefix("## ").strip(), body, name)
            if key is None:
                added.append(made)
            else:
                known[key] = made
            key = None
            continue
        place += 1
    return known, added


def _section(claim: str, body: Sequence[tuple[int, str]], name: str) -> Words:
    detail, remarks, corrections = [], [], []
    for number, line in body:
        if not line.startswith(">"):
            detail.append(line.removeprefix("\\"))
            continue
        if re.match(r"> *Correction\b", line):
            told = _CORRECTION.match(line)
            if told is None:
                raise SourceError(
                    name,
                    f"the correction in line {number} does not say who, what and why",
                    'Write it as "> Correction by Ana: 1.21 million → 1.24 million, because …".',
                )
            parts = {part: told[part].strip() for part in ("who", "was", "now", "why")}
            corrections.append(Correction(**parts))
        elif told := _REMARK.match(line):
            remarks.append(((told["who"] or "").strip(), told["text"].strip()))
    return Words(
        claim=claim, detail=" ".join(" ".join(detail).split()), remarks=tuple(remarks), corrections=tuple(corrections)
    )


def edits_between(
    written: Mapping[str, Mapping[str, Any]], known: Mapping[str, Words], before: Mapping[str, Edit], edition: str
) -> dict[str, Edit]:
    """What people changed: the words as they stand against those that were `written`, upon the edits known `before`."""
    edits = dict(before)
    for key, said in written.items():
        own = edits.get(key, Edit())
        now = known.get(key)
        if now is None:
            edits[key] = replace(own, dropped=True, figures=said["figures"], edition=edition)
            continue
        claim = now.claim if now.claim != _line(said["claim"]) else own.claim
        detail = now.detail if now.detail != _line(said["detail"]) else own.detail
        made = replace(own, claim=claim, detail=detail, remarks=now.remarks, corrections=now.corrections)
        if made != own:
            made = replace(made, figures=said["figures"], edition=edition)
        if made != Edit():
            edits[key] = made
    for key, told in known.items():
        # Sections of people's own, as they stand in a file that was written with them.
        if key.startswith(ADDED) and key not in written:
            edits[key] = Edit(
                claim=told.claim,
                detail=told.detail,
                remarks=told.remarks,
                corrections=told.corrections,
                edition=edition,
            )
    return edits
