"""A printed table as a report: drawn, and as it stands."""

from __future__ import annotations

from collections.abc import Sequence

from ..analysis.printed_table import PrintedTable
from ..charts import Chart
from ..text import Summary
from ..text.languages import say
from ..text.text_tables import TextTable
from .outcome_reports import edition, made_of
from .page_model import Report, Section


def printed_report(
    found: PrintedTable, summary: Summary, chart: Chart, printed: TextTable, caveats: Sequence[str], title: str | None
) -> Report:
    import pandas as pd

    frame = printed.to_frame()
    total = pd.DataFrame([list(printed.total)], columns=list(printed.heads))
    drawn = Section(
        id="table-drawn", claim=chart.subtitle, detail="", chart=chart, evidence=(), sql=found.sql,
        expect=(),
    )  # fmt: skip
    whole = Section(
        id="table", claim=say("The figures"), detail="", chart=None, evidence=(), sql="", expect=(),
        table=pd.concat([frame, total], ignore_index=True),
    )  # fmt: skip
    return Report(
        title=title or say("Table"),
        edition=edition(found.table, found.table.rows),
        summary=summary,
        keys=(),
        sections=(drawn, whole),
        further=(),
        caveats=tuple(caveats),
        made=made_of(found.table),
    )
