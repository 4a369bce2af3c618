"""The places of a question put together: what it asks, every place used once and for something."""

from __future__ import annotations

from ..tables import Role
from . import restrictions
from .asked import Asked, Measured, Problem
from .clauses import Parts, chart_of, check_dates, check_repeated, check_spans, joints, left_over, not_read, subject_of
from .intents import difference, drivers, outlook, relation, scan, why
from .parse import Parse
from .standing_jobs import books, glance, staying
from .total_questions import total

_INTENTS = (
    "books", "staying", "glance", "why", "outlook", "drivers", "relation", "difference", "season", "trend", "unusual",
    "describe", "list",
)  # fmt: skip


def asked_of(parse: Parse) -> Asked:
    """What the question asks. Raises Problem where it cannot be said for sure."""
    check_repeated(parse)
    check_dates(parse)
    chart = chart_of(parse)
    figures = restrictions.numbers_with_units(parse)
    subject = subject_of(parse)
    compared = restrictions.comparisons(parse, figures)
    parts = Parts([], [], [], [], [])
    groups = subject in ("d", "grain", "t") and parse.first("rows") is None
    aggregates = {place: parse.tag(parse.back(place)) for place in parse.columns("c")
                  if parse.kind(parse.back(place)) == "aggregate"}  # fmt: skip
    # Where something else is measured, a comparison is one of rows.
    counted = any(parse.items[place].tag in ("count", "distinct") for place in parse.all_of("aggregate"))
    groups = groups and not counted and not parse.columns("cy")
    for condition, column, sign, value, before in compared:
        if (
            groups
            and (column.role is Role.MEASURE or column.type == "boolean")
            and sign in (">", ">=", "<", "<=")
            and (before or subject in ("grain", "t"))
        ):
            place = next((one for one in aggregates if column.name in parse.items[one].columns), None)
            said = "" if place is None else aggregates[place]
            if place is not None and parse.kind(parse.back(place)) == "aggregate":
                parse.use(parse.back(place), f"aggregate {said}")
            parts.thresholds.append((condition, sign, value))
            parts.measured.append(Measured(aggregate=said, column=column.name, said=bool(said)))
        elif column.type == "boolean":
            raise Problem("A rate is one of groups, as in “routes with a rate above 12%”.", "no groups")
        else:
            parts.filters.append(condition)
    parts.filters += restrictions.labels(parse)
    parts.periods, again, parts.said = restrictions.spans(parse)
    parts.filters += again
    check_spans(parse, parts.periods)
    intent = _intent(parse)
    reader = {
        "books": books, "staying": staying, "glance": glance, "why": why, "outlook": outlook, "drivers": drivers,
        "relation": relation, "difference": difference,
        "season": scan, "trend": scan, "unusual": scan, "describe": scan,
    }.get(intent)  # fmt: skip
    made = reader(parse, parts, intent) if reader is not None else total(parse, parts, figures, intent)
    made = made.but(chart=chart if made.chart is None else made.chart)
    joints(parse)
    left = left_over(parse)
    if left:
        raise Problem(not_read(left), "unread", {"words": list(left)}, unread=left)
    return made


def _intent(parse: Parse) -> str:
    places = [place for place in range(len(parse.items)) if parse.kind(place) in _INTENTS]
    if parse.first("comparing") is not None and not places:
        return "total"
    if not places:
        return "total"
    kinds = {parse.items[place].kind for place in places}
    for name in _INTENTS:
        if name in kinds:
            for place in places:
                if parse.items[place].kind == name and place not in parse.used and parse.items[place].tag != "next":
                    parse.use(place, name)
            return "rows" if name == "list" else name
    return "total"
