"""The last change in words; see `change_sentences`."""

from __future__ import annotations

from ..change_sentences import message
from ..languages import mark

__all__ = ["NAME", "message"]

NAME = mark("change", "kind")
