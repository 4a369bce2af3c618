"""Names of months, weekdays and quarters, and words for parts of dates, in the languages of columns."""

from __future__ import annotations

from functools import lru_cache

LANGUAGES = ("en", "de", "fr", "es")
#: Words that name a part of a date.
PARTS = {
    "year": frozenset("year yr jahr annee ano anio fiscalyear fy geschaftsjahr ejercicio exercice yyyy".split()),
    "half": frozenset("half semester halbjahr semestre".split()),
    "quarter": frozenset("quarter qtr quartal trimestre trimester".split()),
    "month": frozenset("month mon monat mois mes mm monthname monthno period periode".split()),
    "week": frozenset("week wk kw woche semaine semana kalenderwoche isoweek weekno".split()),
    "day": frozenset("day dom tag jour dia dd dayofmonth".split()),
    "weekday": frozenset("weekday dow dayofweek wochentag jour dia diasemana day tag wday".split()),
    "hour": frozenset("hour hr stunde heure hora hh".split()),
}


@lru_cache(maxsize=1)
def months() -> dict[str, int]:
    """The number of a month by its name or abbreviation, folded."""
    from babel.dates import get_month_names

    return _named(get_month_names, 0)


@lru_cache(maxsize=1)
def weekdays() -> dict[str, int]:
    """The number of a weekday (Monday is 1) by its name or abbreviation, folded."""
    from babel.dates import get_day_names

    return _named(get_day_names, 1)


def _named(names: object, first: int) -> dict[str, int]:
    from .name_words import folded

    known: dict[str, int] = {}
    for language in LANGUAGES:
        for width in ("wide", "abbreviated"):
            for context in ("format", "stand-alone"):
                for number, name in names(width, context=context, locale=language).items():  # type: ignore[operator]
                    known.setdefault(folded(str(name)).rstrip("."), int(number) + first)
    return known
