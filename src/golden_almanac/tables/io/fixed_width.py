"""Print-outs: columns that are set off by blanks, as reports for a line printer are."""

from __future__ import annotations

import re

#: Lines that tell where the columns are, and the share of them that must have blanks in a row.
_LOOKED_AT, _MOST = 400, 0.8
#: A gap between columns is blank in all but this share of the lines.
_STRAY = 0.02
#: Words with single blanks between them are one.
_WORDS = re.compile(r"\S+(?: \S+)*")


def lines_of(text: str) -> list[list[str]] | None:
    """The cells of each line, where the text is set in columns; None where it is not."""
    lines = text.expandtabs().splitlines()
    told = [line for line in lines if re.search(r"\S {2,}\S|^ {2,}\S", line)][:_LOOKED_AT]
    full = [line for line in lines if line.strip()]
    if len(told) < 3 or len(told) < _MOST * min(len(full), _LOOKED_AT):
        return None
    # Lines without a figure are headings, which may reach over several columns.
    rows = [line for line in told if re.search(r"\d", line)]
    if len(rows) < 2:
        return None
    words = [[(one.start(), one.end()) for one in _WORDS.finditer(line)] for line in rows]
    usual = max({len(one) for one in words}, key=[len(one) for one in words].count)
    if usual > 1 and sum(len(one) == usual for one in words) >= (1 - _STRAY) * len(words):
        # As many words in every line: they tell the columns, wherever they stand.
        spans = [[one[place] for one in words if len(one) == usual] for place in range(usual)]
        middles = [sorted((first + last) / 2 for first, last in span)[len(span) // 2] for span in spans]
        return [_by_order(line, usual, middles) for line in lines]
    width = max(map(len, rows))
    taken = [0] * width
    for line in rows:
        for place, letter in enumerate(line):
            taken[place] += letter != " "
    cuts, inside = [0], False
    for place, count in enumerate(taken):
        filled = count > _STRAY * len(rows)
        if filled and not inside and place:
            cuts.append(place)
        inside = filled
    starts = sorted(set(cuts))
    if len([start for start in starts if any(taken[start:])]) < 2:
        return None
    return [_cells(line, starts) for line in lines]


def _by_order(line: str, count: int, middles: list[float]) -> list[str]:
    """The words of a line in their order; of a line with fewer of them (a heading) each to the nearest column."""
    found = list(_WORDS.finditer(line))
    if len(found) == count:
        return [one[0] for one in found]
    made = [""] * count
    for one in found:
        middle = (one.start() + one.end()) / 2
        column = min(range(count), key=lambda place: abs(middles[place] - middle))
        made[column] = f"{made[column]} {one[0]}".strip()
    return made


def _cells(line: str, starts: list[int]) -> list[str]:
    """The words of a line in the columns that they stand over: runs without two blanks in a row are not cut."""
    made = [""] * len(starts)
    for match in re.finditer(r"\S+(?: \S+)*", line):
        words, at = match[0], match.start()
        whole = re.search(r"\d", words) is None
        for word in [(words, at)] if whole else [(one[0], at + one.start()) for one in re.finditer(r"\S+", words)]:
            middle = word[1] + len(word[0]) / 2
            column = max((place for place, start in enumerate(starts) if start <= middle), default=0)
            made[column] = f"{made[column]} {word[0]}".strip()
    return made
