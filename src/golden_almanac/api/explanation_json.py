"""An explained change as the figures of its JSON."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from ..analysis.change import Expected, Explanation
from ..text.change_sentences import reversed_by


def explained(explanation: Explanation) -> dict[str, Any]:
    """The `explanation` of a change's JSON."""
    found = reversed_by(explanation)
    return {
        "verdict": explanation.verdict,
        "dimensions": [
            {
                "by": b.by,
                "captured": b.captured,
                "of_chance": b.of_chance,
                "p": None if b.evidence is None else b.evidence.p,
                "noticed": None if b.evidence is None else b.evidence.noticed,
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
            for b in explanation.breakdowns
        ],
        "rate_mix": []
        if explanation.measure.additive
        else [
            {
                "by": b.by,
                "rate": sum(p.rate or 0.0 for p in b.contributions),
                "mix": b.mix,
                "reversal": found is not None and found.by == b.by,
                "parts": [{"label": p.label, "rate": p.rate, "mix": p.mix} for p in b.contributions],
            }
            for b in explanation.breakdowns
        ],
        "factors": _factors(explanation),
        "components": [
            {"column": part.column, "baseline": part.before, "value": part.value, "change": part.change}
            for part in explanation.bridge
        ],
        "calendar": None if explanation.calendar is None else asdict(explanation.calendar),
        "like_for_like": None
        if explanation.like_for_like is None
        else explanation.like_for_like.to_dict(explanation.survey.table),
        "smallest": {
            "slices": [
                {
                    "where": {column: [label] for column, label in part.where.conditions},
                    "sql": part.where.sql(explanation.survey.table),
                    "how": part.how,
                    "status": part.status,
                    "change": part.change,
                    "excess": part.excess,
                }
                for part in explanation.named
            ],
            "explained": explanation.smallest.explained if explanation.named else None,
            "rest": {"baseline": explanation.smallest.rest_before, "value": explanation.smallest.rest_now}
            if explanation.named
            else None,
        },
        "expected": _expected(explanation, explanation.expected),
        "forecast": _expected(explanation, explanation.forecast),
    }


def _factors(explanation: Explanation) -> list[dict[str, Any]]:
    if explanation.factors is None:
        return []
    about = {"units": explanation.factors.units, "by": explanation.factors.by}
    return [{"name": name, "change": change, **about} for name, change in explanation.factors.parts]


def _expected(explanation: Explanation, by: Expected | None) -> dict[str, Any] | None:
    if by is None:
        return None
    return {
        "change": by.change,
        "low": by.low,
        "high": by.high,
        "surprise": explanation.change - by.change,
        "season": by.season,
        "p": by.p,
        "basis": by.basis,
    }
