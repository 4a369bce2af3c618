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
    from .api.check import Readiness, check
    from .api.compare import Comparison, compare
    from .api.draw import chart_kinds, draw, gallery
    from .api.explain_change import Change, change_charts, explain_change
    from .api.explain_changes import Changes, explain_changes
    from .api.find_drivers import Drivers, find_drivers
    from .api.join import join, join_named, links_lines, read_all
    from .api.model_outcome import OutcomeModel, load_model, model_outcome
    from .api.publish_brief import brief_report, publish_brief, read_brief
    from .api.questions import Question, questions
    from .api.read import read
    from .api.read_notes import read_notes
    from .api.regress import Regressed, regress
    from .api.relate import Related, relate
    from .api.repair_log import aside_bytes, table_repairs
    from .api.report import Report, report
    from .api.result_language import speaking
    from .api.scan import Scan, finding_floors, finding_kinds, scan
    from .api.write_demo import write_demo
    from .charts.palette import Palette
    from .export.data_files import frame_bytes, frame_records, json_bytes, table_bytes
    from .export.files import check_target, refuse_to_overwrite, write_all, write_whole
    from .findings import Finding, Note
    from .reports.brief import Brief
    from .support.errors import (
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
    from .support.printable import visible
    from .tables import Calendar, Table
    from .tables.joins import Tables
    from .text.numbers import format_amount, format_difference

__version__ = "0.1.0"

_HOMES = {
    "brief_report": "api.publish_brief",
    "publish_brief": "api.publish_brief",
    "read_brief": "api.publish_brief",
    "Brief": "reports.brief",
    "Palette": "charts.palette",
    "speaking": "api.result_language",
    "Calendar": "tables",
    "BudgetError": "support.errors",
    "JoinError": "support.errors",
    "Tables": "tables.joins",
    "aside_bytes": "api.repair_log",
    "join": "api.join",
    "join_named": "api.join",
    "links_lines": "api.join",
    "read_all": "api.join",
    "table_repairs": "api.repair_log",
    "Readiness": "api.check",
    "check": "api.check",
    "table_bytes": "export.data_files",
    "frame_bytes": "export.data_files",
    "frame_records": "export.data_files",
    "json_bytes": "export.data_files",
    "visible": "support.printable",
    "Change": "api.explain_change",
    "change_charts": "api.explain_change",
    "explain_change": "api.explain_change",
    "Changes": "api.explain_changes",
    "explain_changes": "api.explain_changes",
    "write_demo": "api.write_demo",
    "Comparison": "api.compare",
    "compare": "api.compare",
    "OutcomeModel": "api.model_outcome",
    "load_model": "api.model_outcome",
    "model_outcome": "api.model_outcome",
    "Question": "api.questions",
    "questions": "api.questions",
    "Regressed": "api.regress",
    "regress": "api.regress",
    "Related": "api.relate",
    "relate": "api.relate",
    "Drivers": "api.find_drivers",
    "chart_kinds": "api.draw",
    "draw": "api.draw",
    "gallery": "api.draw",
    "find_drivers": "api.find_drivers",
    "Report": "api.report",
    "report": "api.report",
    "Scan": "api.scan",
    "finding_floors": "api.scan",
    "finding_kinds": "api.scan",
    "Note": "findings",
    "read_notes": "api.read_notes",
    "scan": "api.scan",
    "AlmanacError": "support.errors",
    "ColumnError": "support.errors",
    "ExpressionError": "support.errors",
    "OutputError": "support.errors",
    "PeriodError": "support.errors",
    "RequestError": "support.errors",
    "SourceError": "support.errors",
    "Finding": "findings",
    "Table": "tables",
    "read": "api.read",
    "check_target": "export.files",
    "refuse_to_overwrite": "export.files",
    "write_all": "export.files",
    "write_whole": "export.files",
    "format_amount": "text.numbers",
    "format_difference": "text.numbers",
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
