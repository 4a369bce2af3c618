"""Why a measure changed, in sentences: what was usual, where it came about, through what, what offset it, what is left,
and where to look next. Each sentence says one thing, with its figures; none says what the figures do not."""

from ...analysis.change import Explanation
from ..comparable_growth import like_for_like
from .calendar_part import calendar
from .change_claim import compared, counted, headline, level, message, unfinished
from .change_sizes import contributions, the_noun
from .decomposition import factor_names, made_of, movement, reversal, reversed_by, through
from .expectation import usual
from .location import against, next_look, where

__all__ = [
    "against",
    "alike",
    "calendar",
    "compared",
    "contributions",
    "counted",
    "factor_names",
    "headline",
    "level",
    "made_of",
    "message",
    "movement",
    "next_look",
    "paragraph",
    "reversal",
    "reversed_by",
    "the_noun",
    "through",
    "unfinished",
    "usual",
    "where",
]


def paragraph(explanation: Explanation) -> list[str]:
    """The sentences of a change after its headline, the most telling first."""
    return [
        *usual(explanation),
        *calendar(explanation),
        *where(explanation),
        *alike(explanation),
        *reversal(explanation),
        *through(explanation),
        *made_of(explanation),
        *against(explanation),
        *next_look(explanation),
    ]


def alike(explanation: Explanation) -> list[str]:
    """The change like for like, where labels came or ended; not beside what they made up for, which says it already."""
    found = explanation.like_for_like
    return (
        []
        if found is None or explanation.verdict == "offset"
        else [like_for_like(found.to_dict(explanation.survey.table), explanation.measure)]
    )
