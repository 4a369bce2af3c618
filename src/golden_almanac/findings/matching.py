"""Which findings of two editions are of the same thing, though the data went on between them."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from typing import Any

from .finding import Finding

#: Figures by which two findings of the same kind, measure and slice are told apart.
_APART = ("cycle", "row", "columns", "date")
#: Kinds that are of a moment: another one is another thing.
_OF_A_MOMENT = ("spike", "outlier", "gap", "change")


def matching(finding: Finding) -> str:
    """A key that a finding keeps while its data go on: of its kind, measure, columns and slice."""
    return matching_of(finding.to_dict())


def matching_of(told: Mapping[str, Any]) -> str:
    """The same of a finding as JSON."""
    figures = told.get("figures") or {}
    apart = [figures.get(name) for name in _APART if not isinstance(figures.get(name), float)]
    span = told.get("period") if told["kind"] in _OF_A_MOMENT else None
    key = json.dumps(
        [told["kind"], told["measure"], told["by"], told["where"], apart, span], sort_keys=True, default=str
    )
    return f"{told['kind']}:{hashlib.sha256(key.encode()).hexdigest()[:12]}"
