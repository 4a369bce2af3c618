"""A message: what a finding says, taken apart, before it becomes sentences.

Every kind of finding is first planned as a message; sentences are made of messages in one place, so that a headline is
always the claim, and what follows always goes evidence, qualification, context.
"""

from __future__ import annotations

from dataclasses import dataclass

from ..findings import Finding
from . import numbers
from .languages import capital, joined, say

#: Where chance makes more of such claims than this, it is said how many.
_SAID = 0.005


@dataclass(frozen=True, slots=True, kw_only=True)
class Message:
    """`claim` is a clause with its number, and what stands against it; `evidence` what the claim rests on;
    `qualification` how far it holds; `context` why, as far as the columns tell. All are in the current
    language; evidence, qualification and context are sentences, and may be empty."""

    claim: str
    evidence: str = ""
    qualification: str = ""
    context: str = ""

    @property
    def headline(self) -> str:
        return sentence(self.claim)

    @property
    def detail(self) -> str:
        said = (self.evidence, self.context, self.qualification)
        return joined(" ", [capital(sentence) for sentence in said if sentence])


def sentence(text: str) -> str:
    """A clause as a sentence: a capital letter at its start, one full stop at its end."""
    text = capital(text.strip(" "))
    return text if text.endswith(".") else text + "."


def hedge(finding: Finding) -> str:
    """How far a claim holds, tied to the strength of its evidence: nothing where chance is as good as ruled out."""
    q = finding.test.q
    if q is None or q < _SAID:
        return ""
    return say("About one in {n} claims as strong as this is chance.", n=numbers.whole(round(1 / q, -1)))
