"""python -m bench.truth [--seeds N] [--first SEED]: false claims on noise, recall on planted stories."""

from __future__ import annotations

import argparse
import time

import numpy as np

import golden_almanac as ga

from . import noise, planted

#: Seeds below this were looked at while developing; figures are reported on seeds from here on.
FRESH = 10_000


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--seeds", type=int, default=4, help="tables of each family (default 4)")
    parser.add_argument("--first", type=int, default=FRESH, help="first seed")
    parser.add_argument("--strength", type=float, nargs="*", default=[1.0], help="strengths of the planted stories")
    options = parser.parse_args()
    seeds = range(options.first, options.first + options.seeds)
    _noise(seeds)
    for strength in options.strength:
        _planted(seeds, strength)


def _noise(seeds: range) -> None:
    print(f"{'noise':<18}{'tables':>7}{'false':>7}{'seconds':>9}   claims")
    tables = wrong = 0
    for number, (name, (make, true)) in enumerate(noise.FAMILIES.items()):
        began, bad, claims = time.perf_counter(), 0, []
        for seed in seeds:
            scan = ga.scan(make(np.random.default_rng([seed, number])))
            false = [one for one in scan.findings if not true(one)]
            bad += bool(false)
            claims += [f"{one.kind} {one.where.label}" for one in false]
        seconds = (time.perf_counter() - began) / len(seeds)
        print(f"{name:<18}{len(seeds):>7}{bad:>7}{seconds:>9.2f}   {', '.join(claims[:3])}")
        tables += len(seeds)
        wrong += bad
    print(f"{'all':<18}{tables:>7}{wrong:>7}   {100 * wrong / tables:.1f}% of tables with any false claim\n")


def _planted(seeds: range, strength: float) -> None:
    print(f"planted, strength {strength:g}")
    print(f"{'family':<18}{'tables':>7}{'found':>7}{'first 3':>9}{'told':>7}{'wrong check':>13}")
    for number, (name, make) in enumerate(planted.FAMILIES.items()):
        found = early = told = off = 0
        for seed in seeds:
            frame, tells = make(np.random.default_rng([seed, 100 + number]), strength)
            scan = ga.scan(frame)
            hits = [place for place, one in enumerate(scan.findings) if tells(one)]
            found += bool(hits)
            early += bool(hits) and hits[0] < 3
            told += len(scan.findings)
            off += sum(not one.check().agrees for one in (*scan.findings, *scan.folded))
        print(f"{name:<18}{len(seeds):>7}{found:>7}{early:>9}{told / len(seeds):>7.1f}{off:>13}")
    print()


if __name__ == "__main__":
    main()
