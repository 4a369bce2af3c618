"""Golden Almanac: scan a business table for what matters, say why it changed, publish it.

    import golden_almanac as ga
    scan = ga.scan("sailings.csv")
    print(scan.summary())

Names are loaded when first used, so that importing the package costs nothing. What is not listed here is an inner room:
it may move.
"""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from .analysis.stated_scenarios import Scenario
    from .api.ask import Answer, ask
    from .api.beside_peers import PeerComparison, peers
    from .api.check import Readiness, check
    from .api.compare import Comparison, compare
    from .api.conversation import Conversation, conversation
    from .api.draw import draw, gallery
    from .api.explain_change import Change, explain_change
    from .api.explain_changes import explain_changes
    from .api.figures_at_a_glance import Figures, key_figures
    from .api.find_drivers import Drivers, find_drivers
    from .api.first_brief import write_brief
    from .api.follow_cohorts import Cohorts, cohorts
    from .api.forecast import Forecast, forecast
    from .api.growth import GrowthRates, growth
    from .api.join import join, read_all
    from .api.list_rows import list_rows
    from .api.model_outcome import OutcomeModel, load_model, model_outcome
    from .api.print_table import Printed, table_of
    from .api.project_scenarios import Scenarios, read_scenarios, scenarios
    from .api.publish_brief import Edition, editions, publish_brief, read_brief
    from .api.questions import questions
    from .api.read import read
    from .api.read_notes import read_notes
    from .api.regress import regress
    from .api.relate import relate
    from .api.report import Report, report
    from .api.result_language import speaking
    from .api.review_books import LedgerBooks, review_ledger
    from .api.scan import Scan, scan
    from .api.total import total
    from .api.verify_edition import Verification, verify
    from .api.write_demo import write_demo
    from .charts.palette import Palette
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
    from .tables import Calendar, Table

__version__ = "0.1.0"

#: Each room with the public names that live in it.
_ROOMS = {
    "analysis.stated_scenarios": ("Scenario",),
    "api.ask": ("Answer", "ask"),
    "api.beside_peers": ("PeerComparison", "peers"),
    "api.check": ("Readiness", "check"),
    "api.compare": ("Comparison", "compare"),
    "api.conversation": ("Conversation", "conversation"),
    "api.draw": ("draw", "gallery"),
    "api.explain_change": ("Change", "explain_change"),
    "api.explain_changes": ("explain_changes",),
    "api.first_brief": ("write_brief",),
    "api.figures_at_a_glance": ("Figures", "key_figures"),
    "api.find_drivers": ("Drivers", "find_drivers"),
    "api.forecast": ("Forecast", "forecast"),
    "api.follow_cohorts": ("Cohorts", "cohorts"),
    "api.growth": ("GrowthRates", "growth"),
    "api.join": ("join", "read_all"),
    "api.list_rows": ("list_rows",),
    "api.model_outcome": ("OutcomeModel", "load_model", "model_outcome"),
    "api.publish_brief": ("Edition", "editions", "publish_brief", "read_brief"),
    "api.questions": ("questions",),
    "api.read": ("read",),
    "api.read_notes": ("read_notes",),
    "api.regress": ("regress",),
    "api.relate": ("relate",),
    "api.report": ("Report", "report"),
    "api.result_language": ("speaking",),
    "api.review_books": ("LedgerBooks", "review_ledger"),
    "api.scan": ("Scan", "scan"),
    "api.print_table": ("Printed", "table_of"),
    "api.project_scenarios": ("Scenarios", "read_scenarios", "scenarios"),
    "api.total": ("total",),
    "api.verify_edition": ("Verification", "verify"),
    "api.write_demo": ("write_demo",),
    "charts.palette": ("Palette",),
    "findings": ("Finding", "Note"),
    "reports.brief": ("Brief",),
    "support.errors": (
        "AlmanacError",
        "BudgetError",
        "ColumnError",
        "ExpressionError",
        "JoinError",
        "OutputError",
        "PeriodError",
        "RequestError",
        "SourceError",
    ),
    "tables": ("Calendar", "Table"),
}
_HOMES = {name: room for room, names in _ROOMS.items() for name in names}

__all__ = [
    "AlmanacError",
    "Answer",
    "Brief",
    "BudgetError",
    "Calendar",
    "Change",
    "Cohorts",
    "ColumnError",
    "Comparison",
    "Conversation",
    "Drivers",
    "Edition",
    "ExpressionError",
    "Figures",
    "Finding",
    "Forecast",
    "GrowthRates",
    "JoinError",
    "LedgerBooks",
    "Note",
    "OutcomeModel",
    "OutputError",
    "Palette",
    "PeerComparison",
    "PeriodError",
    "Printed",
    "Readiness",
    "Report",
    "RequestError",
    "Scan",
    "Scenario",
    "Scenarios",
    "SourceError",
    "Table",
    "Verification",
    "__version__",
    "ask",
    "check",
    "cohorts",
    "compare",
    "conversation",
    "draw",
    "editions",
    "explain_change",
    "explain_changes",
    "find_drivers",
    "forecast",
    "gallery",
    "growth",
    "join",
    "key_figures",
    "list_rows",
    "load_model",
    "model_outcome",
    "peers",
    "publish_brief",
    "questions",
    "read",
    "read_all",
    "read_brief",
    "read_notes",
    "read_scenarios",
    "regress",
    "relate",
    "report",
    "review_ledger",
    "scan",
    "scenarios",
    "speaking",
    "table_of",
    "total",
    "verify",
    "write_brief",
    "write_demo",
]


def __getattr__(name: str) -> Any:
    if name not in _HOMES:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    value = getattr(import_module(f".{_HOMES[name]}", __name__), name)
    globals()[name] = value
    return value


def __dir__() -> list[str]:
    return __all__
