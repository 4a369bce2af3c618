"""Everything Golden Almanac raises on purpose.

AlmanacError
├── SourceError      the source cannot be read, or holds nothing to report on
├── ColumnError      a column that is not there, or cannot do what was asked of it
├── ExpressionError  a measure or a condition that is not a plain SQL expression
├── PeriodError      a period that cannot be read, or holds no rows
├── RequestError     an option whose value is not among those allowed
├── JoinError        tables that cannot be joined as asked
├── BudgetError      more memory or disk would be needed than there is
└── OutputError      a file that cannot be written

Each message is one paragraph: what is wrong, where, what to do. The command line prints it and
leaves with exit status 2.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from .printable import line, paragraph


class AlmanacError(Exception):
    """Base of all errors that a caller can mend. Its message is one paragraph, bounded, that any screen may show."""

    def __init__(self, message: str) -> None:
        super().__init__(paragraph(message))


class SourceError(AlmanacError):
    """The source cannot be read, or holds nothing to report on."""

    def __init__(self, source: str, problem: str, remedy: str) -> None:
        self.source = source
        self.problem = problem
        self.remedy = remedy
        super().__init__(f"{source}: {problem}. {remedy}")


class ColumnError(AlmanacError):
    """A column that the table does not have, or that cannot be used as asked."""

    def __init__(self, column: str, problem: str, remedy: str) -> None:
        self.column = column
        super().__init__(f"{problem} {remedy}".strip())

    @classmethod
    def unknown(
        cls, column: str, available: Sequence[str], where: str = "", private: Sequence[str] = ()
    ) -> ColumnError:
        """The error for a name that no column bears, with the nearest names; a `private` one is refused as such."""
        place = f" (in {where})" if where else ""
        if column.casefold() in {name.casefold() for name in private}:
            return cls.private(column, where)
        near = nearest(column, available)
        remedy = f"Did you mean {join_or(near)}?" if near else f"The columns are {listed(available)}."
        return cls(column, f"There is no column named {shorten(column)!r}{place}.", remedy)

    @classmethod
    def private(cls, column: str, where: str = "") -> ColumnError:
        """The error for a column that was declared private: nothing may name it."""
        place = f" (in {where})" if where else ""
        return cls(column, f"The column {shorten(column)!r} is private, so it cannot be named{place}.", "Name another.")


class ExpressionError(AlmanacError):
    """A measure or condition that is not one plain SQL expression over the table's columns."""

    def __init__(self, text: str, problem: str, remedy: str) -> None:
        self.text = text
        super().__init__(f"The expression {shorten(text)!r} {problem}. {remedy}")


class PeriodError(AlmanacError):
    """A period that cannot be read, or that holds nothing to compare."""


class RequestError(AlmanacError):
    """An option with a value that is not allowed: option, what came, what is allowed."""

    def __init__(self, option: str, came: object, allowed: str) -> None:
        self.option = option
        shown = repr(shorten(came, 200)) if isinstance(came, str) else shorten(repr(came), 200)
        super().__init__(f"{option} cannot be {shown}: it must be {allowed}.")

    @classmethod
    def unknown(cls, option: str, came: object, available: Sequence[str], what: str) -> RequestError:
        """A name that is none of those there are: the nearest ones are asked about, or all are listed."""
        made = cls(option, came, "one there is")
        made.args = (paragraph(f"{made} {rather(str(came), available, what)}"),)
        return made


class JoinError(AlmanacError):
    """Tables that cannot be joined as asked without counting something twice or losing it."""


class BudgetError(AlmanacError):
    """More memory, groups or disk would be needed than there is, or than the memory budget allows."""


class OutputError(AlmanacError):
    """A file that cannot be written where it was asked for."""

    def __init__(self, path: str, problem: str, remedy: str) -> None:
        self.path = path
        super().__init__(f"{path}: {problem}. {remedy}")


def nearest(name: str, available: Sequence[str], limit: int = 3) -> list[str]:
    """The names most like `name`: case folded, whole or in part, best first, at most `limit`."""
    from rapidfuzz import fuzz

    folded = name[:200].casefold()
    scored = []
    for candidate in available:
        other = candidate.casefold()
        whole = fuzz.ratio(folded, other)
        parts = max((fuzz.ratio(folded, part) for part in other.split("_")), default=0.0)
        score = max(whole, 0.9 * parts, 85.0 if len(folded) > 2 and folded in other else 0.0)
        if score >= 60:
            scored.append((-score, candidate))
    return [candidate for _, candidate in sorted(scored)[:limit]]


def rather(name: str, available: Sequence[str], what: str) -> str:
    """What to do about a name that is not there: the nearest ones, or those there are."""
    near = nearest(name, available)
    return f"Did you mean {join_or(near)}?" if near else f"The {what} are {listed(available)}."


def listed(names: Sequence[str], most: int = 12) -> str:
    """Names one after the other, long ones cut, and how many more there are."""
    rest = f" and {len(names) - most} more" if len(names) > most else ""
    return ", ".join(shorten(name, 40) for name in names[:most]) + rest


def join_or(names: Iterable[str]) -> str:
    """`'a', 'b' or 'c'`."""
    quoted = [repr(shorten(name, 60)) for name in names]
    return quoted[0] if len(quoted) == 1 else f"{', '.join(quoted[:-1])} or {quoted[-1]}"


def join_and(names: Sequence[str]) -> str:
    """`'a', 'b' and 'c'`."""
    quoted = [repr(name) for name in names]
    return quoted[0] if len(quoted) == 1 else f"{', '.join(quoted[:-1])} and {quoted[-1]}"


def shorten(text: str, width: int = 80) -> str:
    """The text on one line, cut at `width` characters."""
    whole = line(text[: 4 * width + 400])
    return whole if len(whole) <= width else whole[: width - 1] + "…"
