"""python -m bench.truth [--seeds N] [--first SEED] [--strength …] [--changes] [--drivers] [--trades] [--sentences]
[--sweep] [--tails SECONDS]

False claims on noise, recall on planted stories, traps; with `--changes` whether planted reasons are the first
explanation of a change; with `--drivers` whether planted drivers are found in their order; with `--trades` all of
that on tables of other trades (`trades.py`); with `--sentences` whether what summaries say is not there is not there;
with `--sweep` recall over strengths beside a plain script's, with `--tails` how often chance yields a p-value as small,
for every kind. `--save FILE` keeps the figures as JSON.
"""

from __future__ import annotations

import argparse
import json
import time
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np

import golden_almanac as ga

from . import changes, drivers, noise, plain, planted, trades, traps

#: Seeds below this were looked at while developing; figures are reported on seeds from here on.
FRESH = 90_000
STRENGTHS = (0.3, 0.5, 0.7, 1.0, 1.5)


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--seeds", type=int, default=4, help="tables of each family (default 4)")
    parser.add_argument("--first", type=int, default=FRESH, help="first seed")
    parser.add_argument("--strength", type=float, nargs="*", default=[1.0], help="strengths of the planted stories")
    parser.add_argument("--changes", action="store_true", help="reasons planted in changes")
    parser.add_argument("--drivers", action="store_true", help="drivers planted in outcomes")
    parser.add_argument("--trades", action="store_true", help="tables of several trades, names and sizes at random")
    parser.add_argument("--sentences", action="store_true", help="statements of absence, against the truth")
    parser.add_argument("--sweep", action="store_true", help="recall over strengths, beside a plain script")
    parser.add_argument("--tails", type=int, metavar="SECONDS", help="p-values on noise: so long for each kind")
    parser.add_argument("--only", nargs="*", help="only these families")
    parser.add_argument("--save", help="keep the figures of a sweep, or of tails, as JSON")
    parser.add_argument("--workers", type=int, default=2)
    options = parser.parse_args()
    seeds = range(options.first, options.first + options.seeds)
    with ProcessPoolExecutor(options.workers) as pool:
        if options.tails:
            from .tails import tails

            _save(options.save, tails(pool, options.first, options.tails))
            return
        if options.sentences:
            from .sentences import sentences

            sentences(pool, seeds)
            return
        if options.trades:
            _noise(pool, seeds, options.only, trades.NOISE, 700)
            for strength in options.strength:
                _planted(pool, seeds, strength, options.only, trades.PLANTED, 800)
            _changes(pool, seeds, options.only, trades.CHANGES, 900)
            return
        if options.changes:
            _changes(pool, seeds, options.only)
            return
        if options.drivers:
            _drivers(pool, seeds, options.only)
            return
        if options.sweep:
            _save(options.save, _sweep(pool, seeds, options.only))
            return
        _noise(pool, seeds, options.only)
        _traps(pool, seeds, options.only)
        for strength in options.strength:
            _planted(pool, seeds, strength, options.only)


def _save(name: str | None, figures: Any) -> None:
    if name:
        Path(name).write_text(json.dumps(figures, indent=1) + "\n")


def _chosen(families: dict[str, Any], only: list[str] | None) -> list[tuple[int, str]]:
    return [(number, name) for number, name in enumerate(families) if not only or name in only]


#: Families by the first of the numbers that seed their tables.
_ROOMS: dict[int, dict[str, Any]] = {
    0: noise.FAMILIES, 100: planted.FAMILIES, 400: changes.FAMILIES, 700: trades.NOISE, 800: trades.PLANTED,
    900: trades.CHANGES,
}  # fmt: skip


def _family(name: str, number: int) -> Any:
    return _ROOMS[100 * (number // 100)][name]


def _on_noise(task: tuple[str, int, int]) -> tuple[list[str], bool, float]:
    name, number, seed = task
    make, true = _family(name, number)
    frame = make(np.random.default_rng([seed, number]))
    began = time.perf_counter()
    scan = ga.scan(frame, measures=frame.attrs.get("measures"))
    seconds = time.perf_counter() - began
    false = [f"{one.kind} {one.where.label}".strip() for one in scan.findings if not true(one)]
    return false, any(not true(one) for one in plain.claims(frame)), seconds


def _noise(
    pool: ProcessPoolExecutor, seeds: range, only: list[str] | None, families: Any = noise.FAMILIES, room: int = 0
) -> None:
    chosen = _chosen(families, only)
    if not chosen:
        return
    print(f"{'noise':<18}{'tables':>7}{'false':>7}{'plain':>7}{'seconds':>9}   claims")
    tables = wrong = loud = 0
    for number, name in chosen:
        found = list(pool.map(_on_noise, [(name, room + number, seed) for seed in seeds]))
        bad, plainly = sum(bool(claims) for claims, _, _ in found), sum(other for _, other, _ in found)
        told = [claim for claims, _, _ in found for claim in claims]
        seconds = float(np.mean([one[2] for one in found]))
        print(f"{name:<18}{len(seeds):>7}{bad:>7}{plainly:>7}{seconds:>9.2f}   {', '.join(told[:3])}", flush=True)
        tables, wrong, loud = tables + len(seeds), wrong + bad, loud + plainly
    rate = f"{100 * wrong / tables:.1f}% of tables with a false claim"
    print(f"{'all':<18}{tables:>7}{wrong:>7}{loud:>7}            {rate}\n")


def _on_trap(task: tuple[str, int, int]) -> list[str]:
    name, number, seed = task
    frame, sprung = traps.FAMILIES[name](np.random.default_rng([seed, 200 + number]))
    return [one.headline for one in ga.scan(frame).findings if sprung(one)]


def _traps(pool: ProcessPoolExecutor, seeds: range, only: list[str] | None) -> None:
    chosen = _chosen(traps.FAMILIES, only)
    if not chosen:
        return
    print(f"{'trap':<20}{'tables':>7}{'sprung':>8}")
    for number, name in chosen:
        found = list(pool.map(_on_trap, [(name, number, seed) for seed in seeds]))
        told = [text for texts in found for text in texts]
        print(f"{name:<20}{len(seeds):>7}{sum(map(bool, found)):>8}   {'; '.join(told[:1])}", flush=True)
    print()


def _on_planted(task: tuple[str, int, int, float]) -> tuple[int | None, int, int, int, bool, float]:
    """Place of the story, findings told, those neither the story nor what follows from it, checks that disagree,
    whether the plain script finds it, seconds."""
    name, number, seed, strength = task
    made = _family(name, number)(np.random.default_rng([seed, number]), strength)
    began = time.perf_counter()
    scan = ga.scan(made.frame, measures=made.frame.attrs.get("measures"))
    seconds = time.perf_counter() - began
    hits = [place for place, one in enumerate(scan.findings) if made.tells(one)]
    false = sum(not made.tells(one) and not made.follows(one) for one in scan.findings)
    off = sum(not one.check().agrees for one in (*scan.findings, *scan.folded))
    return hits[0] if hits else None, len(scan.findings), false, off, _plainly(made), seconds


def _plainly(made: planted.Planted) -> bool:
    for one in plain.claims(made.frame):
        try:
            if made.tells(one):
                return True
        except KeyError:  # the plain script knows no figures of such findings
            continue
    return False


def _planted(
    pool: ProcessPoolExecutor,
    seeds: range,
    strength: float,
    only: list[str] | None,
    families: Any = planted.FAMILIES,
    room: int = 100,
) -> None:
    chosen = _chosen(families, only)
    if not chosen:
        return
    print(f"planted, strength {strength:g}")
    heads = f"{'found':>7}{'first 3':>9}{'told':>7}{'false':>7}{'wrong check':>13}{'plain':>7}{'seconds':>9}"
    print(f"{'family':<26}{'tables':>7}{heads}")
    sums = np.zeros(6)
    for number, name in chosen:
        found = list(pool.map(_on_planted, [(name, room + number, seed, strength) for seed in seeds]))
        hits = sum(one[0] is not None for one in found)
        early = sum(one[0] is not None and one[0] < 3 for one in found)
        told, false, off, plainly = (sum(one[i] for one in found) for i in (1, 2, 3, 4))
        seconds = float(np.mean([one[5] for one in found]))
        n = len(seeds)
        row = f"{hits:>7}{early:>9}{told / n:>7.1f}{false:>7}{off:>13}{plainly:>7}{seconds:>9.2f}"
        print(f"{name:<26}{n:>7}{row}", flush=True)
        sums += (n, hits, early, told, false, off)
    n, hits, early, told, false, off = (int(one) for one in sums)
    found_rate, early_rate = 100 * hits / n, 100 * early / n
    print(f"{'all':<26}{n:>7}{hits:>7}{early:>9}   {found_rate:.1f}% found, {early_rate:.1f}% among the first three;")
    print(f"{'':<49}   {false} of {told} told are false ({100 * false / max(told, 1):.1f}%); {off} checks disagree\n")


def _on_change(task: tuple[str, int, int]) -> tuple[bool, str, bool, float]:
    """Whether the reason is told first, what is told, whether contributions and checks agree, seconds."""
    name, number, seed = task
    story = _family(name, number)(np.random.default_rng([seed, number]))
    table = ga.read(story.frame)
    began = time.perf_counter()
    change = ga.explain_change(table, story.measure, **story.asked)
    seconds = time.perf_counter() - began
    one = change.explanation
    scale = 1e-9 * max(abs(one.value), abs(one.before))
    exact = all(abs(sum(part.change for part in b.contributions) - one.change) <= scale for b in one.breakdowns)
    if one.factors is not None:
        exact &= abs(sum(part for _, part in one.factors.parts) - one.change) <= scale
    exact &= all(finding.check().agrees for finding in change.findings)
    told = f"{one.verdict}: {', '.join(part.where.label for part in one.named)}" + f" ({one.through})"
    return story.told(one), told, exact, seconds


def _changes(
    pool: ProcessPoolExecutor, seeds: range, only: list[str] | None, families: Any = changes.FAMILIES, room: int = 400
) -> None:
    print(f"{'change':<28}{'tables':>7}{'first':>7}{'inexact':>9}{'seconds':>9}   told instead")
    for number, name in _chosen(families, only):
        found = list(pool.map(_on_change, [(name, room + number, seed) for seed in seeds]))
        right, inexact = sum(one[0] for one in found), sum(not one[2] for one in found)
        others = "; ".join([one[1] for one in found if not one[0]][:3])
        seconds = float(np.mean([one[3] for one in found]))
        print(f"{name:<28}{len(seeds):>7}{right:>7}{inexact:>9}{seconds:>9.2f}   {others}", flush=True)


def _on_driver(task: tuple[str, int, int]) -> tuple[bool, bool | None, bool, list[bool], int, str, float]:
    """Whether the wanted drivers are found in order, whether the cut is near, whether something false is told; for each
    segment whether its interval covers the truth; segments that a filter does not give again; what was told;
    seconds."""
    name, number, seed = task
    made = drivers.FAMILIES[name](np.random.default_rng([seed, 600 + number]))
    table = ga.read(made.frame)
    began = time.perf_counter()
    found = ga.find_drivers(table, "y")
    seconds = time.perf_counter() - began
    told = [one.factor.name for one in found.drivers]
    right = tuple(told[: len(made.wanted)]) == made.wanted
    right &= all(any(one.factor == name for one in found.found.left_out) for name in made.left_out)
    false = any(name not in made.wanted for name in told) or (not made.wanted and bool(found.found.every_segment))
    near = None
    if made.cut is not None:
        column, at, span = made.cut
        shape = next((one.shape for one in found.drivers if one.factor.name == column), None)
        place = None if shape is None else shape.cut.at if shape.cut is not None else shape.bend
        near = place is not None and abs(place - at) <= 0.1 * span
    covers, off = [], 0
    for one in found.found.every_segment[:5]:
        query = f"SELECT {found.found.outcome.measure.sql} AS v, count(*) AS n FROM source WHERE {one.sql}"
        row = table.sql(query).iloc[0]
        off += abs(float(row["v"]) - one.value) > 1e-9 * max(1.0, abs(one.value)) or int(row["n"]) != one.n
        if made.truth is not None:
            import duckdb

            inner_ = made.frame.assign(_truth=made.truth)  # noqa: F841 (the engine reads it by its name)
            where = one.sql.replace('"date"', "date")
            truth = duckdb.sql(f"SELECT avg(_truth) FROM inner_ WHERE {where}").limit(1).fetchall()[0]
            covers.append(bool(one.low <= truth[0] <= one.high))
    text = ", ".join(told) + (f"; {found.segments[0].sql}" if found.segments else "")
    return right, near, false, covers, off, text, seconds


def _drivers(pool: ProcessPoolExecutor, seeds: range, only: list[str] | None) -> None:
    heads = f"{'right':>7}{'cut near':>10}{'false':>7}{'covered':>14}{'wrong filter':>14}{'seconds':>9}"
    print(f"{'drivers':<24}{'tables':>7}{heads}   told instead")
    inside = total = 0
    for number, name in _chosen(drivers.FAMILIES, only):
        found = list(pool.map(_on_driver, [(name, number, seed) for seed in seeds]))
        right, false = sum(one[0] for one in found), sum(one[2] for one in found)
        cuts = [one[1] for one in found if one[1] is not None]
        covers = [cover for one in found for cover in one[3]]
        inside, total = inside + sum(covers), total + len(covers)
        near = f"{sum(cuts)}" if cuts else "–"
        others = "; ".join([one[5] for one in found if not one[0] or one[2]][:2])
        seconds = float(np.mean([one[6] for one in found]))
        row = f"{right:>7}{near:>10}{false:>7}{f'{sum(covers)} of {len(covers)}':>14}{sum(one[4] for one in found):>14}"
        print(f"{name:<24}{len(seeds):>7}{row}{seconds:>9.2f}   {others}", flush=True)
    print(f"intervals of segments cover the truth in {100 * inside / max(total, 1):.1f}% of {total}")


def _sweep(pool: ProcessPoolExecutor, seeds: range, only: list[str] | None) -> dict[str, Any]:
    figures: dict[str, Any] = {"seeds": len(seeds), "first": seeds.start, "strengths": STRENGTHS, "families": {}}
    print(f"{'recall':<26}" + "".join(f"{strength:>13g}" for strength in STRENGTHS) + "   (plain)")
    every = [(100 + number, name) for number, name in _chosen(planted.FAMILIES, only)]
    every += [(800 + number, name) for number, name in _chosen(trades.PLANTED, only)]
    for number, name in every:
        ours, plainly = [], []
        for strength in STRENGTHS:
            found = list(pool.map(_on_planted, [(name, number, seed, strength) for seed in seeds]))
            ours.append(sum(one[0] is not None for one in found) / len(seeds))
            plainly.append(sum(one[4] for one in found) / len(seeds))
        figures["families"][name] = {"ours": ours, "plain": plainly}
        cells = "".join(f"{a:>7.2f}{f'({b:.1f})':>6}" for a, b in zip(ours, plainly, strict=True))
        print(f"{name:<26}{cells}", flush=True)
    return figures


if __name__ == "__main__":
    main()
