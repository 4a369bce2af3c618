"""Text that may be shown anywhere: what would steer a terminal, a line or a direction of writing is spelled out.

Labels, headings, file names and messages come from strangers' data. A control sequence among them can rewrite what
stands on a screen, so whatever is printed passes here first; what is computed with keeps its text as it is.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import wraps
from typing import TypeVar

T = TypeVar("T")

#: Controls (C0, C1, delete), marks that turn the direction of writing, separators of lines, halves of surrogate pairs,
#: and code points that are no characters; tab and line feed are left to the caller.
UNSEEN = re.compile(
    "[\x00-\x08\x0b-\x1f\x7f-\x9f\u061c\u180e\u200b\u200e\u200f\u2028-\u202e\u2060-\u206f\ufeff\ufdd0-\ufdef\ufff9-\ufffb"
    "\ufffe\uffff\ud800-\udfff\U00013430-\U0001343f\U0001bca0-\U0001bca3\U0001d173-\U0001d17a\U000e0000-\U000e007f]"
)
_SPACES = re.compile(r"[ \t\r\n\v\f]+")
#: A name and a secret in an address: they are never shown.
_SECRET = re.compile(r"(?<=[a-z0-9]:/)(/{0,2})[^/\s@]+(?::[^/\s]*)?@", re.IGNORECASE)
#: Letters of a message at most: what is left of its middle goes, so that what to do about it stays.
MOST = 900


def visible(text: str) -> str:
    """The text with every control character written as an escape (`\\x1b`, `\\u202e`); tabs and line breaks stay."""
    return UNSEEN.sub(_escape, text) if UNSEEN.search(text) else text


def made_visible(method: Callable[[T], str]) -> Callable[[T], str]:
    """A method that gives a text for the screen, such as `__repr__`, with what it says made visible."""

    @wraps(method)
    def said(self: T) -> str:
        return visible(method(self))

    return said


def line(text: str) -> str:
    """The text on one line, visible; spaces that keep a number and its unit together stay."""
    return visible(_SPACES.sub(" ", text).strip())


def paragraph(text: str, most: int = MOST) -> str:
    """A message of at most `most` letters on one line, visible, without the secrets of an address."""
    if len(text) > 20 * most:
        text = text[: 10 * most] + text[-10 * most :]
    whole = line(_SECRET.sub(r"\1…@", text))
    if len(whole) <= most:
        return whole
    tail = most // 3
    return f"{whole[: most - tail - 1]}…{whole[-tail:]}"


def _escape(match: re.Match[str]) -> str:
    code = ord(match[0])
    return f"\\x{code:02x}" if code < 0x100 else f"\\u{code:04x}" if code < 0x10000 else f"\\U{code:08x}"
