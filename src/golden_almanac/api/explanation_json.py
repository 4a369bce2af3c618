"""An explained change as the figures of its JSON."""

from __future__ import annotations

from typing import Any

from ..analysis.change import Expected, Explanation
from ..text.change_sentences import reversed_by


def explained(one: Explanation) -> dict[str, Any]:
    """The `explanation` of a change's JSON."""
    found = reversed_by(one)
    return {
        "verdict": one.verdict,
        "dimensions": [
            {
                "by": b.by,
                "captured": b.captured,
                "up": b.gross[0],
                "down": b.gross[1],
                "contributions": [
                    {
                        "label": p.label,
                        "baseline": p.baseline,
                        "value": p.value,
                        "change": p.change,
                        "share_of_change": p.share,
                        "status": p.status,
                    }
                    for p in b.contributions
                ],
            }
            for b in one.breakdowns
        ],
        "rate_mix": []
        if one.measure.additive
        else [
            {
                "by": b.by,
                "rate": sum(p.rate or 0.0 for p in b.contributions),
                "mix": b.mix,
                "reversal": found is not None and found.by == b.by,
                "parts": [{"label": p.label, "rate": p.rate, "mix": p.mix} for p in b.contributions],
            }
            for b in one.breakdowns
        ],
        "factors": _factors(one),
        "components": [
            {"column": part.column, "baseline": part.before, "value": part.value, "change": part.change}
            for part in one.bridge
        ],
        "smallest": {
            "slices": [
                {
                    "where": {column: [label] for column, label in part.where.conditions},
                    "sql": part.where.sql(one.survey.table),
                    "how": part.how,
                    "status": part.status,
                    "change": part.change,
                    "excess": part.excess,
                }
                for part in one.named
            ],
            "explained": one.smallest.explained if one.named else None,
            "rest": {"baseline": one.smallest.rest_before, "value": one.smallest.rest_now} if one.named else None,
        },
        "expected": _expected(one, one.expected),
        "forecast": _expected(one, one.forecast),
    }


def _factors(one: Explanation) -> list[dict[str, Any]]:
    if one.factors is None:
        return []
    about = {"units": one.factors.units, "by": one.factors.by}
    return [{"name": name, "change": change, **about} for name, change in one.factors.parts]


def _expected(one: Explanation, by: Expected | None) -> dict[str, Any] | None:
    if by is None:
        return None
    return {
        "change": by.change,
        "low": by.low,
        "high": by.high,
        "surprise": one.change - by.change,
        "season": by.season,
        "p": by.p,
        "basis": by.basis,
    }
