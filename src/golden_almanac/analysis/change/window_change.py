"""Why a series moved, as far as the columns tell: the change between a finding's two windows, taken apart.

For averages and rates, how much is mix (more of what was always low) and how much happened within
the labels; for sums, how much is more rows and how much is more per row.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from ...aggregation import Survey
from ...findings import Finding
from ...support.errors import PeriodError
from ...tables import Period
from ..known_series import recorded_places
from .explanation import Explanation, explain


def why(survey: Survey, finding: Finding) -> dict[str, Any] | None:
    """Figures that say through what a trend or shift came about, or None where nothing can be said."""
    windows = finding.figures.get("windows")
    measure = finding.measure
    if finding.definition.movement != "path" or not windows or measure is None or measure.kind == "other":
        return None
    if measure.level:
        return None
    before, after = (_period(windows[name]) for name in ("before", "after"))
    if recorded_places(survey, before).size != recorded_places(survey, after).size:
        # Fewer rows may only be fewer months.
        return None
    try:
        one = explain(survey, measure, after, before, where=finding.where, thorough=False)
    except PeriodError:
        return None
    claimed = 1.0 if finding.direction == "up" else -1.0
    if one.change * claimed <= 0:
        return None
    return _volume(one) if measure.additive else _mix(survey, one)


def _mix(survey: Survey, explanation: Explanation) -> dict[str, Any] | None:
    best: tuple[float, Any] | None = None
    for breakdown in explanation.breakdowns:
        mix = sum(part.mix or 0.0 for part in breakdown.contributions)
        share = mix / explanation.change
        # Fewer labels say it better: half a point a label is what a long list has to offer more.
        merit = min(share, 2 - share) - 0.005 * len(breakdown.contributions)
        if share > 0 and (best is None or merit > best[0]):
            best = (merit, breakdown)
    if best is None:
        return None
    breakdown = best[1]
    mix = sum(part.mix or 0.0 for part in breakdown.contributions)
    # Of labels that contribute about alike, the one that has grown is the one to name.
    best_mix = max((part.mix or 0.0) / explanation.change for part in breakdown.contributions)
    alike = [part for part in breakdown.contributions if (part.mix or 0.0) / explanation.change >= 0.7 * best_mix]
    lead = max(alike, key=lambda part: ((part.weight_now or 0.0) - (part.weight_before or 0.0), part.label or ""))
    return {
        "how": "mix",
        "by": breakdown.by,
        "change": explanation.change,
        "mix": mix,
        "rate": explanation.change - mix,
        "lead": {
            "label": lead.label,
            "own": lead.value if lead.value is not None else lead.baseline,
            "weight_before": lead.weight_before,
            "weight_now": lead.weight_now,
        },
    }


def _volume(explanation: Explanation) -> dict[str, Any] | None:
    if not explanation.volume_rate:
        return None
    return {
        "how": "volume",
        "change": explanation.change,
        "volume": explanation.volume_rate[0][1],
        "rate": explanation.volume_rate[1][1],
        "rows": explanation.rows,
        "rows_before": explanation.rows_before,
    }


def _period(window: dict[str, str]) -> Period:
    return Period(start=np.datetime64(window["start"]), end=np.datetime64(window["end"]))
