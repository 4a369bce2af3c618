"""How long something took, as people and programs write it: 00:02:31, 26:15:00, 2h 15m, 0 days 00:02:31.

A time of day looks the same as a duration (08:30:00): the hours that no day has, the column's name, or hours that are
nearly all nought tell which of the two it is. What neither tells stays text.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from ...support.phrasing import phrased
from ..meaning.name_words import DURATIONS, WORKED, tells, words
from ..reading_guide import Guide
from .interpretation import NO_GUIDE, Reading

_DAYS = re.compile(r"(?P<minus>-)?(?P<d>\d+) days?,? (?P<h>\d{1,2}):(?P<m>[0-5]\d):(?P<s>[0-5]\d(?:\.\d+)?)")
_SPELLED = re.compile(
    r"(?P<minus>-)?(?:(?P<d>\d+)\s*(?:d|days?|tage?|j|días?)\b)?[\s,]*(?:(?P<h>\d+)\s*(?:h|hrs?|hours?|std)\b\.?)?[\s,]*"
    r"(?:(?P<m>\d+)\s*(?:m|min|mins|minutes?)\b\.?)?[\s,]*(?:(?P<s>\d+(?:\.\d+)?)\s*(?:s|sec|secs|seconds?|sek)\b\.?)?",
    re.IGNORECASE,
)
#: Where some have hours, those that have none are minutes and seconds.
_THREE = re.compile(r"(?P<minus>-)?(?:(?P<h>\d{1,5}):(?=\d\d:))?(?P<m>\d{1,5}):(?P<s>[0-5]\d(?:[.,]\d+)?)")
_HOURS = re.compile(r"(?P<minus>-)?(?P<h>\d{1,5}):(?P<m>[0-5]\d)")
_MINUTES = re.compile(r"(?P<minus>-)?(?P<m>\d{1,5}):(?P<s>[0-5]\d)")
_FORMS = {"days": _DAYS, "spelled": _SPELLED, "h:mm:ss": _THREE, "h:mm": _HOURS, "m:ss": _MINUTES}
_SECONDS = {"d": 86_400.0, "h": 3_600.0, "m": 60.0, "s": 1.0}
#: What a column of texts is told in, by its median in seconds.
_UNITS = ((120.0, "s", 1.0), (7_200.0, "min", 60.0), (float("inf"), "h", 3_600.0))
#: Words beside those of all durations that say how long something took.
_LASTING = DURATIONS | frozenset(
    "length elapsed lasting spent taken handle handling talk hold wrap aht asa acw response resolution resolve runtime "
    "playtime airtime watch session pace lap split idle avg average mean total max longest shortest net gross "
    "gesprachszeit gesamtdauer durchschnitt mittlere media promedio moyenne moyen total".split()
)
#: Words of what is counted in hours of work, and of what takes minutes and seconds.
_OF_HOURS = WORKED | frozenset("hours hour hrs shift stunden heures horas arbeitszeit schicht".split())
_OF_MINUTES = frozenset(
    "handle handling talk hold call wrap aht asa acw session pace lap split track song wait waiting queue page view "
    "visit answer engagement minutes minute mins min".split()
)
#: Words of a moment of the day.
_OF_CLOCKS = frozenset(
    "start starts started end ends ended begin begins open opens opening close closes closing clock departure departs "
    "arrival arrives login logout scheduled due uhrzeit uhr beginn ende heure hora at from until to interval "
    "slot".split()
)
#: Hours are nearly all nought in this share of the texts where they are no hours of the day.
_NO_HOURS = 0.8
#: A day has no more hours.
_DAY = 24


def read(name: str, texts: list[str], guide: Guide = NO_GUIDE) -> Reading | None:
    """A reading if all texts say how long something took."""
    import pyarrow as pa

    step = guide.step("read texts", name)
    told: Mapping[str, Any] = step.facts if step is not None else {}
    form = told.get("form") or _form(name, texts)
    if form is None:
        return None
    matches = [_FORMS[form].fullmatch(text) for text in texts]
    if not all(match is not None and match.group().strip("-, ") for match in matches):
        return None
    seconds = [_seconds(match) for match in matches if match is not None]
    middle = sorted(map(abs, seconds))[len(seconds) // 2]
    unit, size = next((unit, size) for most, unit, size in _UNITS if middle < most)
    if "unit" in told:
        unit, size = next((one, other) for _, one, other in _UNITS if one == told["unit"])
    return Reading(
        what="durations",
        check="durations as text",
        values=[one / size for one in seconds],
        type=pa.float64(),
        unit=unit,
        repair=phrased("durations in {unit}", unit=unit),
        changed=tuple(texts),
        facts={"as": "durations", "form": form, "unit": unit},
    )


def _form(name: str, texts: list[str]) -> str | None:
    """How the durations of a column are written; None where they may be times of day, or are nothing of the kind."""
    if _DAYS.fullmatch(texts[0]):
        return "days"
    if ":" not in texts[0]:
        several = any(sum(group is not None for group in _parts(text)) > 1 for text in texts)
        return "spelled" if several else None
    said = words(name)
    lasts = tells(said, _LASTING) is not None or tells(said, _OF_HOURS) is not None
    of_day = tells(said, _OF_CLOCKS) is not None
    pieces = [text.lstrip("-").split(":") for text in texts]
    if not all(2 <= len(one) <= 3 and one[0].isdigit() for one in pieces):
        return None
    hours = [int(one[0]) for one in pieces if len(one) == 3]
    if hours:
        small = sum(one == 0 for one in hours) >= _NO_HOURS * len(hours)
        some_without = len(hours) < len(texts)
        return "h:mm:ss" if max(hours) >= _DAY or (not of_day and (lasts or small or some_without)) else None
    left = [int(one[0]) for one in pieces]
    if of_day:
        return None
    if tells(said, _OF_HOURS) is not None:
        return "h:mm"
    return "m:ss" if tells(said, _OF_MINUTES) is not None or (lasts and max(left) >= _DAY) else None


def _parts(text: str) -> tuple[str | None, ...]:
    match = _SPELLED.fullmatch(text)
    return () if match is None else match.group("d", "h", "m", "s")


def _seconds(match: re.Match[str]) -> float:
    found = match.groupdict()
    total = 0.0
    for part, size in _SECONDS.items():
        if found.get(part):
            total += float(found[part].replace(",", ".")) * size
    return -total if found["minus"] else total
