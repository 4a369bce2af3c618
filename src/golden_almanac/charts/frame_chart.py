"""Any frame as any kind of chart: what people draw by themselves, in the house look.

Each kind takes the first columns that fit unless columns are named. A request that makes no sense is refused.
"""

from __future__ import annotations

from contextlib import nullcontext
from typing import Any

from ..support.errors import ColumnError, RequestError
from ..text.languages import say
from .chart import Chart
from .empty_state import said
from .frame_columns import Frame, Wishes
from .frame_kinds import DRAWN, Plain
from .palette import sharing


def draw_frame(frame: Any, kind: str, wishes: Wishes) -> Chart:
    """The chart. Raises RequestError for an unknown kind or wish, ColumnError for columns that are not there."""
    if kind not in DRAWN:
        raise RequestError("The kind of chart", kind, "one of " + ", ".join(sorted(DRAWN)))
    if wishes.order not in ("value", "label", "given"):
        raise RequestError("The order", wishes.order, "one of value, label, given")
    named = [name for name in (wishes.x, wishes.by, *(wishes.y or ())) if name is not None]
    for name in named:
        if name not in frame.columns:
            raise ColumnError.unknown(name, [str(column) for column in frame.columns], "the frame")
    title = wishes.title or f"{kind} chart"
    plain: Plain = {"name": f"{kind}-{_slug(title)}", "title": title, "subtitle": wishes.subtitle}
    plain["source"] = wishes.source
    if len(frame) == 0:
        return said(**plain, sentence=say("There are no rows to draw."))
    palette = wishes.palette
    with sharing(palette) if palette is not None else nullcontext():
        made = DRAWN[kind](Frame(frame, wishes), plain)
    if wishes.size is not None:
        width, height = wishes.size
        if not (2 <= width <= 40 and 1 <= height <= 40):
            raise RequestError("The size", wishes.size, "two numbers of inches, 2 to 40 wide and 1 to 40 high")
        made.figure.set_size_inches(width, height)
    return made


def _slug(text: str) -> str:
    return "".join(letter if letter.isalnum() else "-" for letter in text.lower())[:40]
