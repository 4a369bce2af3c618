"""A message for each kind of finding, and from it a headline and a detail.

The headline is the claim with its number, true by itself; the detail adds what it is compared with,
why, and how sure it is. Every number comes from the finding's figures.
"""

from __future__ import annotations

from dataclasses import replace
from importlib import import_module
from typing import cast

from ..findings import Finding
from . import names, numbers
from .attribution import why
from .languages import joined, say
from .message import Message, hedge


def message(finding: Finding) -> Message:
    """What a finding says, taken apart; see `Message`."""
    made = _written(finding)
    sure = made.qualification or hedge(finding)
    return replace(
        made,
        context=made.context or why(finding),
        qualification=joined(" ", [part for part in (_small(finding), sure) if part]),
    )


def headline_and_detail(finding: Finding) -> tuple[str, str]:
    """The headline, one sentence: what, where, by how much, since when; and the detail, one to three of them: against
    what, why, how sure."""
    with names.by_itself():
        told = message(finding)
        return told.headline, told.detail


def _small(finding: Finding) -> str:
    """Why an effect below the floor is told, and what the floor is; nothing of others."""
    if not finding.small or finding.candidate.floor is None:
        return ""
    size, unit = finding.candidate.floor
    return say(
        "It is told because {column} was asked for: otherwise a scan leaves out what is below {size} {unit}.",
        column=names.dimension(str(finding.by)),
        size=numbers.trimmed(size),
        unit=say(unit),
    )


def _written(finding: Finding) -> Message:
    """What the file of its kind says; see `kinds`."""
    told = cast(Message, import_module(f".kinds.{finding.kind}", __package__).message(finding))
    return replace(told, claim=say("{claim}: sure, but small", claim=told.claim.rstrip("."))) if finding.small else told


def kind_name(kind: str) -> str:
    """What a kind of finding is called in the reader's language."""
    return say(str(import_module(f".kinds.{kind}", __package__).NAME), "kind")
