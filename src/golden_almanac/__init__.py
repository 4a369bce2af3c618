"""Golden Almanac: scan a business table for what matters, say why it changed, publish it.

    import golden_almanac as ga
    scan = ga.scan("sailings.csv")
    print(scan.summary())

Names are loaded when first used, so that importing the package costs nothing.
"""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from .analyses.briefs import brief_report, publish_brief, read_brief
    from .analyses.change import Change, change_charts, explain_change
    from .analyses.changes import Changes, explain_changes
    from .analyses.comparing import Comparison, compare
    from .analyses.demo import write_demo
    from .analyses.drawing import chart_kinds, draw, gallery
    from .analyses.drivers import Drivers, find_drivers
    from .analyses.joining import join, join_named, links_lines, read_all
    from .analyses.modelling import OutcomeModel, load_model, model_outcome
    from .analyses.notes import read_notes
    from .analyses.questions import Question, questions
    from .analyses.readiness import Readiness, check
    from .analyses.reading import read
    from .analyses.regressing import Regressed, regress
    from .analyses.relating import Related, relate
    from .analyses.repairs import aside_bytes, table_repairs
    from .analyses.report import Report, report
    from .analyses.scan import Scan, finding_floors, finding_kinds, scan
    from .analyses.voices import speaking
    from .charts.palette import Palette
    from .core.errors import (
        AlmanacError,
        BudgetError,
        ColumnError,
        ExpressionError,
        JoinError,
        OutputError,
        PeriodError,
        RequestError,
        SourceError,
    )
    from .core.findings import Finding, Note
    from .core.joins import Tables
    from .core.tables import Calendar, Table
    from .core.visible import visible
    from .publish.data import frame_bytes, frame_records, json_bytes, table_bytes
    from .publish.files import check_target, refuse_to_overwrite, write_all, write_whole
    from .reports.brief import Brief
    from .words.numbers import format_amount, format_difference

__version__ = "0.1.0"

_HOMES = {
    "brief_report": "analyses.briefs",
    "publish_brief": "analyses.briefs",
    "read_brief": "analyses.briefs",
    "Brief": "reports.brief",
    "Palette": "charts.palette",
    "speaking": "analyses.voices",
    "Calendar": "core.tables",
    "BudgetError": "core.errors",
    "JoinError": "core.errors",
    "Tables": "core.joins",
    "aside_bytes": "analyses.repairs",
    "join": "analyses.joining",
    "join_named": "analyses.joining",
    "links_lines": "analyses.joining",
    "read_all": "analyses.joining",
    "table_repairs": "analyses.repairs",
    "Readiness": "analyses.readiness",
    "check": "analyses.readiness",
    "table_bytes": "publish.data",
    "frame_bytes": "publish.data",
    "frame_records": "publish.data",
    "json_bytes": "publish.data",
    "visible": "core.visible",
    "Change": "analyses.change",
    "change_charts": "analyses.change",
    "explain_change": "analyses.change",
    "Changes": "analyses.changes",
    "explain_changes": "analyses.changes",
    "write_demo": "analyses.demo",
    "Comparison": "analyses.comparing",
    "compare": "analyses.comparing",
    "OutcomeModel": "analyses.modelling",
    "load_model": "analyses.modelling",
    "model_outcome": "analyses.modelling",
    "Question": "analyses.questions",
    "questions": "analyses.questions",
    "Regressed": "analyses.regressing",
    "regress": "analyses.regressing",
    "Related": "analyses.relating",
    "relate": "analyses.relating",
    "Drivers": "analyses.drivers",
    "chart_kinds": "analyses.drawing",
    "draw": "analyses.drawing",
    "gallery": "analyses.drawing",
    "find_drivers": "analyses.drivers",
    "Report": "analyses.report",
    "report": "analyses.report",
    "Scan": "analyses.scan",
    "finding_floors": "analyses.scan",
    "finding_kinds": "analyses.scan",
    "Note": "core.findings",
    "read_notes": "analyses.notes",
    "scan": "analyses.scan",
    "AlmanacError": "core.errors",
    "ColumnError": "core.errors",
    "ExpressionError": "core.errors",
    "OutputError": "core.errors",
    "PeriodError": "core.errors",
    "RequestError": "core.errors",
    "SourceError": "core.errors",
    "Finding": "core.findings",
    "Table": "core.tables",
    "read": "analyses.reading",
    "check_target": "publish.files",
    "refuse_to_overwrite": "publish.files",
    "write_all": "publish.files",
    "write_whole": "publish.files",
    "format_amount": "words.numbers",
    "format_difference": "words.numbers",
}

__all__ = [
    "AlmanacError",
    "Brief",
    "BudgetError",
    "Calendar",
    "Change",
    "Changes",
    "ColumnError",
    "Comparison",
    "Drivers",
    "ExpressionError",
    "Finding",
    "JoinError",
    "Note",
    "OutcomeModel",
    "OutputError",
    "Palette",
    "PeriodError",
    "Question",
    "Readiness",
    "Regressed",
    "Related",
    "Report",
    "RequestError",
    "Scan",
    "SourceError",
    "Table",
    "Tables",
    "__version__",
    "aside_bytes",
    "brief_report",
    "change_charts",
    "chart_kinds",
    "check",
    "check_target",
    "compare",
    "draw",
    "explain_change",
    "explain_changes",
    "find_drivers",
    "finding_floors",
    "finding_kinds",
    "format_amount",
    "format_difference",
    "frame_bytes",
    "frame_records",
    "gallery",
    "join",
    "join_named",
    "json_bytes",
    "links_lines",
    "load_model",
    "model_outcome",
    "publish_brief",
    "questions",
    "read",
    "read_all",
    "read_brief",
    "read_notes",
    "refuse_to_overwrite",
    "regress",
    "relate",
    "report",
    "scan",
    "speaking",
    "table_bytes",
    "table_repairs",
    "visible",
    "write_all",
    "write_demo",
    "write_whole",
]


def __getattr__(name: str) -> Any:
    if name not in _HOMES:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    value = getattr(import_module(f".{_HOMES[name]}", __name__), name)
    globals()[name] = value
    return value


def __dir__() -> list[str]:
    return __all__
