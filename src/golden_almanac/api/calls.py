"""The request of a call, by the call's name: how questions and briefs reach the analyses."""

from __future__ import annotations

from collections.abc import Mapping
from importlib import import_module
from typing import Any

from .request import Request

#: Each call that may be asked for, with the class of its request; the module has the call's name, but for some.
_HOMES = {"cohorts": "follow_cohorts", "key_figures": "figures_at_a_glance", "review_ledger": "review_books"}
_REQUESTS = {
    "cohorts": "CohortsRequest",
    "compare": "CompareRequest",
    "explain_change": "ChangeRequest",
    "find_drivers": "DriversRequest",
    "forecast": "ForecastRequest",
    "key_figures": "KeyFiguresRequest",
    "list_rows": "RowsRequest",
    "relate": "RelateRequest",
    "review_ledger": "LedgerRequest",
    "scan": "ScanRequest",
    "total": "TotalRequest",
}


def request_for(call: str, source: Any, arguments: Mapping[str, Any]) -> Request:
    """The request of a call over a source."""
    home = import_module(f".{_HOMES.get(call, call)}", __package__)
    made: Request = getattr(home, _REQUESTS[call])(source=source, **arguments)
    return made
