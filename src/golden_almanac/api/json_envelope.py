"""What the JSON of several results shares, and the live values of a change."""

from __future__ import annotations

from typing import Any

from ..aggregation import Survey
from ..aggregation.measures import Measure
from ..analysis.change import Explanation
from ..tables import Table, Timeline
from ..text import Live, dates
from ..text import caveats as told_caveats


def table_head(table: Table, line: Timeline | None) -> dict[str, Any]:
    """The `table` object of the JSON formats."""
    return {
        "rows": table.rows_read,
        "columns": len(table.columns),
        "time": None if line is None else line.column,
        "grain": None if line is None else line.grain.value,
        "first": None if line is None else str(line.first_day),
        "last": None if line is None else str(line.last_day),
        "partial_last_period": None if line is None else line.partial_last,
    }


def asked_survey(survey: Survey, **more: Any) -> dict[str, Any]:
    """What was asked of a survey, as understood."""
    return {
        "measures": [measure.name for measure in survey.measures],
        "by": [column.name for column in survey.dimensions],
        **more,
    }


def asked_change(explanation: Explanation) -> dict[str, Any]:
    """What was asked of a change, as understood."""
    periods = {"period": explanation.period.to_dict(), "baseline": explanation.baseline.to_dict()}
    return asked_survey(explanation.survey, measure=explanation.measure.name, **periods)


def live_name(measure: Measure) -> str:
    """A measure's name in people's own text: `revenue`, `on_time_rate`."""
    return live_name_of(measure.label)


def live_name_of(text: str) -> str:
    """A text as a name: letters, digits and underscores."""
    return "".join(letter if letter.isalnum() else "_" for letter in text.lower()).strip("_")


def live_of(explanation: Explanation) -> Live:
    """The live values of an explained change."""
    percent = (
        None
        if explanation.measure.in_points or explanation.before <= 0
        else 100 * (explanation.value / explanation.before - 1)
    )
    figures = {
        "value": explanation.value,
        "baseline": explanation.before,
        "change": explanation.change,
        "change_pct": percent,
        "period": dates.period(explanation.period),
        "compared_with": dates.period(explanation.baseline),
    }
    return Live(figures, explanation.measure)


def caveat_sentences(caveats: Any) -> list[str]:
    return [told_caveats.sentence(name, facts) for name, facts in caveats]
