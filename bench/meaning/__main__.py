"""Counts columns whose meaning is right, and outputs that say what must never be said.

`python -m bench.meaning --seeds 8 --first 1 [--kinds name,name] [--after first|later]`; `--after` takes only kinds that
were written once the code was done: for natures, or for running totals, returns, clusters and slips.
"""

from __future__ import annotations

import argparse
import re
import sys
from collections import Counter

import numpy as np

import golden_almanac as ga
from golden_almanac.analysis.scan_pipeline import timeline_for
from golden_almanac.tables import Column
from golden_almanac.tables.meaning.mixed_units import mixed_units_of
from golden_almanac.tables.meaning.scenarios import scenarios_of

from . import kinds_after, kinds_first, kinds_later  # noqa: F401 - each lists its kinds
from .case import KINDS, Case

_ROLES = {"part of a date": "part"}


def said_of(column: Column) -> set[str]:
    """What a column was taken for."""
    role, nature = column.role.value, column.nature
    found = {_ROLES.get(role, role)}
    if role == "measure":
        found = {nature}
        if column.beside:
            found.add("beside")
    if nature == "code":
        found.add("code")
    return found


def faults(case: Case, outputs: bool) -> tuple[int, list[str]]:
    """Columns looked at, and what is wrong."""
    table = ga.read(case.frame)
    wrong = []
    for name, wanted in case.columns.items():
        found = said_of(table.column(name))
        if not found & set(wanted.split("|")):
            wrong.append(f"{name}: {'/'.join(sorted(found))} where {wanted} is right")
    line = timeline_for(table)
    time = None if line is None else line.column
    if case.time is not None and time != case.time:
        wrong.append(f"time: {time} where {case.time} is right")
    if case.grain is not None and line is not None and line.grain.value != case.grain:
        wrong.append(f"grain: {line.grain.value} where {case.grain} is right")
    plans, units = scenarios_of(table), mixed_units_of(table)
    for what, seen, right in (
        ("scenario", None if plans is None else plans.column, case.scenario),
        ("unit", None if units is None else units.column, case.unit),
    ):
        if seen != right:
            wrong.append(f"{what}: {seen} where {right} is right")
    looked = len(case.columns) + len(case.must) + (case.time is not None) + (case.grain is not None) + 2
    if outputs:
        wrong += [f"SAID: {text}" for text in forbidden(case, table)]
        told = " ".join([*ga.check(table).meaning(), *(str(one.message) for one in table.readiness)])
        wrong += [f"not said: {pattern}" for pattern in case.must if not re.search(pattern, told)]
    return looked, wrong


def forbidden(case: Case, table: ga.Table) -> list[str]:
    """Sentences that must never be said, in what check, scan and change say."""
    texts = [" ".join(ga.check(table).meaning())]
    scan = ga.scan(table)
    texts += [str(scan.summary(length="long")), *(finding.headline + " " + finding.detail for finding in scan.findings)]
    if timeline_for(table) is not None:
        try:
            texts.append(str(ga.explain_change(table).summary(length="long")))
        except ga.AlmanacError as problem:
            texts.append(str(problem))
    return [match[0] for text in texts for pattern in case.never for match in [re.search(pattern, text)] if match]


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--seeds", type=int, default=8)
    parser.add_argument("--first", type=int, default=1)
    parser.add_argument("--kinds", default="")
    parser.add_argument("--after", choices=("", "first", "later"), default="")
    parser.add_argument("--columns-only", action="store_true")
    asked = parser.parse_args()
    names = set(filter(None, asked.kinds.split(",")))
    own = {"first": kinds_after.__name__, "later": kinds_later.__name__}.get(asked.after)
    looked, wrong = 0, Counter[str]()
    kinds = [one for one in KINDS if (not names or one.name in names) and (own is None or one.make.__module__ == own)]
    said = 0
    for one in kinds:
        for seed in range(asked.first, asked.first + asked.seeds):
            case = one.make(np.random.default_rng([seed, *map(ord, one.name)]))
            count, found = faults(case, outputs=not asked.columns_only)
            looked += count
            said += sum(text.startswith("SAID") for text in found)
            wrong.update(f"{one.name}: {text}" for text in found)
    for text, times in sorted(wrong.items()):
        sys.stdout.write(f"{times}x {text}\n")
    bad = sum(wrong.values()) - said
    share = 100 * (1 - bad / looked) if looked else 0.0
    sys.stdout.write(
        f"{len(kinds)} kinds x {asked.seeds} seeds: {share:.1f}% of {looked} right; {said} forbidden sentences\n"
    )
    sys.exit(1 if share < 97 or said else 0)


if __name__ == "__main__":
    main()
