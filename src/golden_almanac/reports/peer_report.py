"""Own figures beside peers as a report: the strips, the figures, what the gap consists of."""

from __future__ import annotations

from collections.abc import Sequence

from ..analysis.peers import Peers
from ..charts import Chart
from ..text import Summary, numbers
from ..text.languages import say
from ..text.text_tables import TextTable
from .outcome_reports import edition, made_of, table_section
from .page_model import Report, Section


def peer_report(
    found: Peers, summary: Summary, chart: Chart, tables: Sequence[TextTable], caveats: Sequence[str], title: str | None
) -> Report:
    first = Section(
        id="peers",
        claim=say("Each figure among the peers"),
        detail="",
        chart=chart,
        evidence=(
            (say("Peers", "column"), numbers.whole(len(found.chosen.names))),
            (say("Not chosen", "column"), numbers.whole(found.chosen.left_out)),
        ),
        sql=found.sql,
        expect=(),
    )
    sections = [first, table_section("peer-figures", say("Own, middle and better quarter"), tables[0])]
    if found.parts:
        sections.append(table_section("peer-gap", say("What the gap in costs consists of"), tables[-1]))
    return Report(
        title=title or say("Beside peers"),
        edition=edition(found.peers, found.peers.rows),
        summary=summary,
        keys=(),
        sections=tuple(sections),
        further=(),
        caveats=tuple(caveats),
        made=made_of(found.peers),
    )
