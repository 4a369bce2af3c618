"""An answer with a page for each label of a column."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from ..reports import Report as Model
from ..support.errors import AlmanacError, ColumnError, RequestError
from ..tables import Role
from .calls import request_for
from .slice_pages import pages_of

if TYPE_CHECKING:
    from .ask import Answer

_MOST = 12


def with_pages(answer: Answer, model: Model, column: str) -> Model:
    """The report with the same answer for each of a column's labels, the twelve with most rows."""
    table, call = answer.table, answer.reading.call
    assert call is not None
    if column.casefold() in {name.casefold() for name in table.private}:
        raise ColumnError.private(column)
    own = table.column(column, "the pages")
    if own.role is not Role.DIMENSION:
        raise RequestError("The pages", column, "a column of labels")
    counts = sorted(zip(*table.label_counts(own.name), strict=True), key=lambda pair: (-int(pair[1]), str(pair[0])))
    parts = []
    for label in [label for label, _ in counts if label is not None][:_MOST]:
        where = table.equals(own.name, label)
        both = f"({call.arguments['where']}) AND ({where})" if "where" in call.arguments else where
        by = tuple(name for name in call.arguments.get("by") or () if name != own.name) or None
        arguments = call.arguments | {"where": both} | ({"by": by} if "by" in call.arguments else {})
        try:
            found = request_for(call.name, table, arguments).run()
        except AlmanacError:
            continue
        inner = found._pages(None)
        sections = tuple(replace(section, figures={}, path="") for section in inner.sections)
        parts.append((label, replace(inner, sections=sections)))
    return replace(model, sections=(*model.sections, *pages_of(own.name, parts)))
