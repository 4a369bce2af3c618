"""What the months of each account ask: off their usual course, missing, in the wrong month, with the wrong sign."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt
from scipy.special import stdtr

from ...stats.extra_spread import spread_between
from ...stats.false_discovery import q_values
from .account_months import AccountMonths
from .account_paths import Course, Event, course_of, courses_of
from .questions_asked import LedgerQuestion

Floats = npt.NDArray[np.float64]
Flags = npt.NDArray[np.bool_]
#: How sure an account must be odd among all accounts; how sure its slope must differ from theirs.
_LEVEL, _SLOPE = 0.05, 0.05
#: Rhythms of posting, in months; holes that a steady account may have; months that must have been posted to.
_RHYTHMS, _HOLES, _STEADY = (1, 2, 3, 6, 12), 0.06, 6
#: Accounts from which a common course is told; a drift is worth telling from so much over the whole time.
_FEW, _LEAST_DRIFT = 6, 0.04
#: Spread of single months up to which twice the usual is told from chance; how near to twice it must lie.
_CALM, _NEAR = 0.22, 0.05
#: Months with the other sign that an account of one sign may have.
_FLIPS = 2
#: Questions that a month beside a hole does not answer.
_UNMOVED = ("step", "drift", "timing")


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Judged:
    """An account with its rhythm: months in which it is `expected`, those that have a `known` amount, its course."""

    name: str
    expected: Flags
    known: Flags
    course: Course | None


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Base:
    """What accounts are set against: the amounts of some accounts together, above nought in all months where `usable`;
    `usual` is their course."""

    names: tuple[str, ...]
    values: Floats
    usual: Floats
    usable: bool
    odd: Mapping[int, float]


def base_of(books: AccountMonths, names: tuple[str, ...]) -> Base:
    """The base of some accounts together, its sign turned where it is kept below nought."""
    rows = [books.place(name) for name in names]
    values = books.amounts[rows].sum(axis=0)
    values = values if values.sum() >= 0 else -values
    course = course_of(values, values != 0, books.year, None)
    usual = np.abs(values) if course is None else np.abs(course.usual)
    odd = {} if course is None else {
        place: event.effect for event in course.events for place in _months(event)
    }  # fmt: skip
    return Base(names=names, values=values, usual=usual, usable=bool((values > 0).all()), odd=odd)


def _months(event: Event) -> tuple[int, ...]:
    if event.shape == "month":
        return (event.place,)
    return (event.place, event.place + 1) if event.shape == "pair" else ()


def judged(books: AccountMonths, base: Base | None) -> list[Judged]:
    """Each account with its rhythm and course."""
    skipped = books.postings.sum(axis=0) == 0
    divided = base.values if base is not None and base.usable else None
    posted = (books.postings > 0) & (books.amounts != 0)
    flipped = [_flipped(values, own) for values, own in zip(books.amounts, posted, strict=True)]
    known = posted & ~np.array(flipped).reshape(posted.shape)
    bases = [divided if base is not None and name not in base.names else None for name in books.names]
    courses = courses_of(books.amounts, known, books.year, bases)
    rhythms: dict[bytes, Flags] = {}
    for own in posted:
        if own.tobytes() not in rhythms:
            rhythms[own.tobytes()] = _expected(own, skipped)
    return [
        Judged(name=name, expected=rhythms[posted[row].tobytes()], known=known[row], course=courses[row])
        for row, name in enumerate(books.names)
    ]


def _expected(posted: Flags, skipped: Flags) -> Flags:
    """Months in which an account is posted to by its rhythm; none where it has none."""
    none = np.zeros(posted.size, dtype=bool)
    places = np.flatnonzero(posted)
    if places.size < 4:
        return none
    first, last = int(places[0]), int(places[-1])
    along = np.arange(posted.size)
    for rhythm in _RHYTHMS:
        counts = [int(posted[first + phase :: rhythm].sum()) for phase in range(rhythm)]
        best = int(np.argmax(counts))
        own = (along >= first) & ((along - first) % rhythm == best) & ~skipped
        inside = own & (along <= last)
        holes = int((inside & ~posted).sum())
        if inside.sum() < _STEADY - 2 * (rhythm > 1) or sum(counts) - counts[best] > 0.05 * sum(counts):
            continue
        if holes <= max(1, _HOLES * inside.sum()):
            return np.asarray(own)
    return none


def _flipped(values: Floats, posted: Flags) -> Flags:
    """Months with the other sign, of an account that has one sign but for a month or two."""
    above, below = posted & (values > 0), posted & (values < 0)
    rare = below if above.sum() >= below.sum() else above
    common = int(max(above.sum(), below.sum()))
    return rare if rare.sum() <= min(_FLIPS, common // 4) and common >= _STEADY else np.zeros(values.size, dtype=bool)


def account_questions(books: AccountMonths, accounts: list[Judged], base: Base | None) -> list[LedgerQuestion]:
    """The questions of all accounts, unweighed."""
    best = [min((event.p for event in one.course.events), default=1.0) if one.course else 1.0 for one in accounts]
    q = q_values(best)
    made: list[LedgerQuestion] = []
    for row, one in enumerate(accounts):
        values = books.amounts[row]
        own = list(_signs(books, one, values))
        own += _edges(books, one, values)
        events: list[LedgerQuestion] = []
        if one.course is not None and q[row] <= _LEVEL:
            events = list(_events(books, one, one.course, values, base, float(q[row])))
        made += [*own, *_holes(books, one, values, events)]
    return made + list(_drifts(books, accounts, made, base))


# --- single accounts -------------------------------------------------------------------------------


def _signs(books: AccountMonths, one: Judged, values: Floats) -> Iterator[LedgerQuestion]:
    posted = (books.postings[books.names.index(one.name)] > 0) & (values != 0)
    for place in np.flatnonzero(_flipped(values, posted)):
        usual = _usual(one, values, int(place))
        yield _month(books, one, int(place), values, usual, kind="sign")


def _usual(one: Judged, values: Floats, place: int) -> float:
    if one.course is not None:
        return float(one.course.usual[place])
    return float(np.median(values[one.known])) if one.known.any() else 0.0


def _month(
    books: AccountMonths, one: Judged, place: int, values: Floats, usual: float, *, kind: str = "movement",
    p: float | None = None, q: float | None = None,
) -> LedgerQuestion:  # fmt: skip
    period = books.period(place)
    return LedgerQuestion(
        kind=kind,  # type: ignore[arg-type]
        account=one.name,
        period=period,
        amount=float(values[place]) - usual,
        value=float(values[place]),
        usual=usual,
        low=None if one.course is None else float(one.course.low[place]),
        high=None if one.course is None else float(one.course.high[place]),
        p=p,
        q=q,
        postings=int(books.postings[books.names.index(one.name), place]),
        where=books.within(period, one.name),
    )


def _edges(books: AccountMonths, one: Judged, values: Floats) -> Iterator[LedgerQuestion]:
    """An account that begins or stops within the months looked at."""
    places = np.flatnonzero(one.known)
    if not one.expected.any() or places.size < 3:
        return
    first, last, end = int(places[0]), int(places[-1]), books.count - 1
    step = int(np.diff(np.flatnonzero(one.expected)).max(initial=1))
    if first >= 3 * step:
        level = float(np.median(values[places[:6]]))
        yield _lasting(books, one, first, level, level, 0.0, "begins")
    if end - last >= 2 * step and places.size >= _STEADY:
        level = float(np.median(values[places[-6:]]))
        yield _lasting(books, one, last, -level, 0.0, level, "stops")


def _lasting(
    books: AccountMonths, one: Judged, place: int, amount: float, value: float, usual: float, kind: str,
    p: float | None = None, q: float | None = None, end: int | None = None,
) -> LedgerQuestion:  # fmt: skip
    last = books.period(books.count - 1 if end is None else end)
    period = books.period(place)
    span = books.span(place, books.count - 1)
    return LedgerQuestion(
        kind=kind,  # type: ignore[arg-type]
        account=one.name,
        period=period,
        other=last if kind in ("step", "drift") else None,
        amount=amount,
        value=value,
        usual=usual,
        p=p,
        q=q,
        where=books.within(period if kind == "stops" else span, one.name),
    )


def _events(
    books: AccountMonths, one: Judged, course: Course, values: Floats, base: Base | None, q: float
) -> Iterator[LedgerQuestion]:
    """The events of an account's course."""
    for event in course.events:
        if event.shape in ("step", "drift"):
            yield _turn(books, one, course, event, values, q)
        elif event.shape == "pair":
            yield _timing(books, one, values, event.place, event.place + 1, course, p=event.p, q=q)
    months = sorted((event for event in course.events if event.shape == "month"), key=lambda event: event.place)
    used: set[int] = set()
    followers: list[Event | None] = [*months[1:], None]
    for event, after in zip(months, followers[: len(months)], strict=True):
        place = event.place
        if place in used or _goes_with(books, one, course, event, values, base):
            continue
        if after is not None and after.place == place + 1 and _makes_up(course, values, place):
            used.add(place + 1)
            yield _timing(books, one, values, place, place + 1, course, p=min(event.p, after.p), q=q)
            continue
        ratio = event.effect if course.relative else 0.0
        twice = course.spread <= _CALM and abs(ratio - np.log(2)) <= max(3 * course.spread, _NEAR)
        usual = float(course.usual[place])
        yield _month(books, one, place, values, usual, kind="twice" if twice else "movement", p=event.p, q=q)


def _makes_up(course: Course, values: Floats, place: int) -> bool:
    """Whether what one month lacks the next has too much."""
    first, second = (float(values[at] - course.usual[at]) for at in (place, place + 1))
    if first * second >= 0:
        return False
    return abs(first + second) <= 0.25 * max(abs(first), abs(second)) + 2 * _sd(course, place)


def _sd(course: Course, place: int) -> float:
    """The standard deviation of a month about its course, in money."""
    return course.spread * (abs(float(course.usual[place])) if course.relative else 1.0)


def _goes_with(
    books: AccountMonths, one: Judged, course: Course, event: Event, values: Floats, base: Base | None
) -> bool:
    """Whether a month is odd because its base is: an account that goes with the base by itself lies as usual, or one
    that stands by itself went with it for once."""
    if base is None or not base.usable or event.place not in base.odd or one.name in base.names:
        return False
    other = course_of(values, one.known, books.year, None if course.of_base else base.values)
    if other is None:
        return False
    return not any(two.shape == "month" and two.place == event.place for two in other.events)


def _timing(
    books: AccountMonths, one: Judged, values: Floats, place: int, after: int, course: Course,
    p: float | None = None, q: float | None = None,
) -> LedgerQuestion:  # fmt: skip
    """What lies in the wrong month: `period` lacks it, `other` has it."""
    gaps = {at: float(values[at] - course.usual[at]) for at in (place, after)}
    side = 1.0 if float(course.usual[place]) >= 0 else -1.0
    lacks = min(gaps, key=lambda at: side * gaps[at])
    has = after if lacks == place else place
    asked = _month(books, one, lacks, values, float(course.usual[lacks]), kind="timing", p=p, q=q)
    return replace(
        asked, other=books.period(has), amount=gaps[has],
        where=books.within(books.span(*sorted((place, after))), one.name),
    )  # fmt: skip


def _turn(books: AccountMonths, one: Judged, course: Course, event: Event, values: Floats, q: float) -> LedgerQuestion:
    """A step or a drift: how far a month lies off the course without it, on average or at the end."""
    bare = course.without(event)
    kept = slice(event.place, None)
    if event.shape == "step":
        after, before = float(course.fitted[kept].mean()), float(bare[kept].mean())
    else:
        after, before = float(course.fitted[-1]), float(bare[-1])
    return _lasting(books, one, event.place, after - before, after, before, event.shape, event.p, q)


def _holes(books: AccountMonths, one: Judged, values: Floats, events: list[LedgerQuestion]) -> Iterator[LedgerQuestion]:
    """Months that lack their posting: in the month beside them it may stand double."""
    row = books.names.index(one.name)
    places = np.flatnonzero(one.known)
    taken: set[str] = set()
    if places.size and one.course is not None:
        missing = one.expected & (books.postings[row] == 0) | (one.expected & (values == 0))
        last = int(places[-1])
        for place in np.flatnonzero(missing):
            # Behind the last posting an account stops, but for one month of delay.
            if place < places[0] or (place > last and books.count - 1 - last >= 2):
                continue
            usual = float(one.course.usual[place])
            beside = _beside(one, values, int(place), usual)
            if beside is not None:
                taken.add(str(books.period(beside).start))
                span = books.span(*sorted((int(place), beside)))
                asked = _month(books, one, int(place), values, usual, kind="timing")
                yield replace(
                    asked, other=books.period(beside), amount=float(values[beside] - one.course.usual[beside]),
                    where=books.within(span, one.name),
                )  # fmt: skip
            else:
                yield _month(books, one, int(place), values, usual, kind="missing")
    for event in events:
        if event.kind in _UNMOVED or str(event.period.start) not in taken:
            yield event


def _beside(one: Judged, values: Floats, place: int, usual: float) -> int | None:
    """The month before or after a hole that has about what the hole lacks beside its own."""
    course = one.course
    assert course is not None
    for at in (place + 1, place - 1):
        if not 0 <= at < values.size or not one.known[at]:
            continue
        over = float(values[at] - course.usual[at])
        room = 3 * np.hypot(_sd(course, at), _sd(course, place)) + 0.02 * abs(usual)
        if over * usual > 0 and abs(over - usual) <= max(room, 0.05 * abs(usual)) and abs(over) > room:
            return at
    return None


# --- accounts beside each other --------------------------------------------------------------------


def _drifts(
    books: AccountMonths, accounts: list[Judged], told: list[LedgerQuestion], base: Base | None
) -> Iterator[LedgerQuestion]:
    """Accounts whose slope lies apart from that of the accounts together, told of none that has a step or drift of its
    own."""
    turned = {one.account for one in told if one.kind in ("step", "drift", "begins", "stops")}
    common = None
    if base is not None and base.usable:
        common = course_of(base.values, base.values != 0, books.year, None)
    inner = [
        one for one in accounts
        if one.course is not None and one.course.relative and np.isfinite(one.course.error) and one.course.error > 0
        and one.known.sum() >= 12
    ]  # fmt: skip
    if len(inner) < _FEW:
        return
    courses = [one.course for one in inner if one.course is not None]
    slopes = np.array([
        one.slope + (common.slope if one.of_base and common is not None else 0.0) for one in courses
    ])  # fmt: skip
    errors = np.array([one.error for one in courses])
    middle = _weighted_median(slopes, errors**-2)
    between = spread_between(slopes - middle, errors)
    z = (slopes - middle) / np.hypot(errors, between)
    p = 2 * stdtr(30.0 if between == 0.0 else max(len(inner) - 1.0, 3.0), -np.abs(z))
    q = q_values(p)
    for place, one in enumerate(inner):
        course = courses[place]
        apart = float(slopes[place] - middle) * (books.count - 1)
        if q[place] > _SLOPE or abs(apart) < _LEAST_DRIFT or one.name in turned:
            continue
        known = np.flatnonzero(one.known)
        last = int(known[-1])
        now = float(course.fitted[last])
        along = float(now * np.exp(-float(slopes[place] - middle) * (last - known[0])))
        yield replace(
            _lasting(
                books, one, int(known[0]), now - along, now, along, "drift", float(p[place]), float(q[place]), end=last
            ),
            monthly=float(slopes[place] - middle),
        )  # fmt: skip


def _weighted_median(values: Floats, weights: Floats) -> float:
    order = np.argsort(values, kind="stable")
    reached = np.cumsum(weights[order])
    return float(values[order][int(np.searchsorted(reached, reached[-1] / 2))])
