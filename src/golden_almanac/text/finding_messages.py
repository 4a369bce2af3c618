"""A message for each kind of finding, and from it a headline and a detail.

The headline is the claim with its number, true by itself; the detail adds what it is compared with,
why, and how sure it is. Every number comes from the finding's figures.
"""

from __future__ import annotations

from dataclasses import replace
from importlib import import_module
from typing import cast

from ..findings import Finding
from .attribution import why
from .message import Message, hedge


def message(finding: Finding) -> Message:
    """What a finding says, taken apart; see `Message`."""
    made = _written(finding)
    return replace(made, context=why(finding), qualification=made.qualification or hedge(finding))


def headline(finding: Finding) -> str:
    """One sentence: what, where, by how much, since when."""
    return _written(finding).headline


def detail(finding: Finding) -> str:
    """One to three sentences: against what, why, how sure."""
    return message(finding).detail


def _written(finding: Finding) -> Message:
    """What the file of its kind says; see `kinds`."""
    return cast(Message, import_module(f".kinds.{finding.kind}", __package__).message(finding))
