"""Labels that may be one: case, spaces, accents, slips of the pen. Merges are proposed, never made."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from ...support.phrasing import Commas, phrased, phrased_count
from .. import Role, Table
from ..problems import Problem, Step
from ..reading_guide import Guide
from .repairs import MERGE, merge

#: A column with more labels than this is not compared label by label.
MOST_LABELS = 2000
#: Likeness from which two labels may be one, and how rare the slip must be beside the right one.
_ALIKE, _RARE = 88.0, 0.1
_LEAST_LETTERS = 5
_MOST_LETTERS = 200


def ready(table: Table, guide: Guide) -> Table:
    """Tell labels of a column that differ by case, spaces, accents or a letter or two; merge them when told to."""
    for column in table.columns:
        if column.role is not Role.DIMENSION or column.type != "text" or column.distinct > MOST_LABELS:
            continue
        labels, counts = table.label_counts(column.name)
        pairs = alike({label: int(count) for label, count in zip(labels, counts, strict=True) if label is not None})
        if not pairs:
            continue
        asked = phrased("Do these labels mean the same?")
        answer = guide.ask("labels alike", column.name, asked, ("merge", "keep apart"))
        problem = Problem(
            check="labels alike",
            severity="note" if isinstance(answer, str) else "question",
            column=column.name,
            rows=sum(int(counts[labels.index(slip)]) for slip, _ in pairs),
            examples=_examples(table, column.name, pairs[:4]),
            message=phrased(
                "Labels of {column} may mean the same: {pairs}. They were kept apart.",
                column=repr(column.name),
                pairs=_listed(pairs, merged=False),
            ),
            question=None if isinstance(answer, str) else answer,
        )
        if answer == "merge":
            merged = _through(dict(pairs))
            problem = replace(
                problem,
                severity="repair",
                message=phrased(
                    "Labels of {column} were merged, as answered: {pairs}.",
                    column=repr(column.name),
                    pairs=_listed(pairs, merged=True),
                ),
                repair=phrased("merged"),
                step=Step(do=MERGE, column=column.name, facts={"labels": merged}),
            )
            table = merge(table, column.name, merged)
        table = replace(table, problems=(*table.problems, problem))
    return table


def _listed(pairs: Sequence[tuple[str, str]], *, merged: bool) -> Any:
    """The first pairs of labels, and how many more there are."""
    commas = Commas(
        phrased("{slip} into {right}", slip=repr(slip), right=repr(right))
        if merged
        else phrased("{slip} and {right}", slip=repr(slip), right=repr(right))
        for slip, right in pairs[:3]
    )
    if len(pairs) <= 3:
        return commas
    return phrased_count(len(pairs) - 3, "{listed} and {n} more", "{listed} and {n} more", listed=commas)


def _examples(table: Table, name: str, pairs: Sequence[tuple[str, str]]) -> tuple[tuple[int, str], ...]:
    """The first row of each slip; none of a table left in its file, since the order of its rows is not looked at."""
    if not table.store.abilities.in_order:
        return ()
    codes, labels = table.codes(name)
    firsts = [int(np.flatnonzero(codes == labels.index(slip))[0]) for slip, _ in pairs]
    return tuple(
        table.example(first, phrased("{slip}, perhaps {right}", slip=repr(slip), right=repr(right)))
        for first, (slip, right) in zip(firsts, pairs, strict=True)
    )


def _through(pairs: dict[str, str]) -> dict[str, str]:
    """A slip of a slip goes to the right label at once."""
    found = {}
    for slip, right in pairs.items():
        while right in pairs:
            right = pairs[right]
        found[slip] = right
    return found


def alike(counts: dict[str, int]) -> list[tuple[str, str]]:
    """Pairs (slip, right) of labels that may be one, the rarer first."""
    from rapidfuzz import fuzz, process

    by_key: dict[str, list[str]] = {}
    for label in counts:
        by_key.setdefault(folded(label), []).append(label)
    pairs = []
    leaders: dict[str, str] = {}
    for key, same in by_key.items():
        same.sort(key=lambda label: (-counts[label], label))
        leaders[key] = same[0]
        pairs += [(label, same[0]) for label in same[1:]]
    # A text of pages is no label with a slip, and comparing two of them would take for ever.
    keys = sorted(key for key in leaders if _LEAST_LETTERS <= len(key) <= _MOST_LETTERS)
    total = {key: sum(counts[label] for label in by_key[key]) for key in keys}
    for key in keys:
        for other, score, _ in process.extract(key, keys, scorer=fuzz.ratio, score_cutoff=_ALIKE, limit=4):
            rare = total[key] <= max(2, _RARE * total[other]) and total[key] < total[other]
            same_figures = re.sub(r"\D", "", key) == re.sub(r"\D", "", other)
            if other != key and rare and score < 100 and same_figures and not _opposed(key, other):
                pairs.append((leaders[key], leaders[other]))
                break
    return pairs


#: Words that tell one part of a thing from another: Downtown East is not Downtown West.
_SIDES = frozenset(
    "north south east west northern southern eastern western northeast northwest southeast southwest upper lower inner "
    "outer left right new old first second third male female men women in out inbound outbound nord sud ost ouest est "
    "norte sur este oeste ober unter i ii iii iv".split()
)


def _opposed(one: str, other: str) -> bool:
    """Whether two labels differ by nothing but words that are there to tell parts apart."""
    apart = set(one.split()) ^ set(other.split())
    return bool(apart) and apart <= _SIDES


#: What stands between words.
_BETWEEN = re.compile(r"[\W_]+")


def folded(label: str) -> str:
    """Lower case without accents, points and double spaces."""
    bare = label
    if not label.isascii():
        bare = "".join(letter for letter in unicodedata.normalize("NFKD", label) if not unicodedata.combining(letter))
    elif label.isalnum():
        return label.lower()
    return " ".join(_BETWEEN.sub(" ", bare.casefold()).split()) or label
