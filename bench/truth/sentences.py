"""Statements of absence in summaries, against what is known of a table: "even", "usual", "nothing stands out", "held
level". Each statement that a summary makes is counted, and those that the table's truth makes wrong."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from concurrent.futures import ProcessPoolExecutor

import numpy as np

import golden_almanac as ga

from . import changes, noise, planted, trades

#: What says that something is not there.
SAID = {
    "even": re.compile(r"even across the board"),
    "usual": re.compile(r"within its usual movement|no more than chance makes|That is the season"),
    "nothing": re.compile(r"Nothing stands out"),
    "level": re.compile(r"held (about )?level"),
}
#: What a planted reason of a change makes wrong.
_WRONG: dict[str, tuple[str, ...]] = {
    "one slice": ("even", "usual"),
    "a slice of two dimensions": ("even", "usual"),
    "three slices": ("even",),
    "offsets, flat total": ("even",),
    "mix alone": ("usual",),
    "rate alone": ("even", "usual"),
    "price alone": ("usual",),
    "volume alone": ("usual",),
    "even across the board": ("usual",),
    "new and ended": ("even",),
}


def _made(text: str) -> list[str]:
    return [name for name, words in SAID.items() for _ in words.findall(text)]


def _on_change(task: tuple[str, str, int, int]) -> tuple[list[str], list[str]]:
    room, name, number, seed = task
    families = changes.FAMILIES if room == "changes" else trades.CHANGES
    story = families[name](np.random.default_rng([seed, (400 if room == "changes" else 900) + number]))
    made = _made(ga.explain_change(ga.read(story.frame), story.measure, **story.asked).summary("long").text)
    wrong = (*story.wrong, *(_WRONG.get(name, ()) if room == "changes" else ()))
    return made, [one for one in made if one in wrong]


def _on_scan(task: tuple[str, str, int, int]) -> tuple[list[str], list[str]]:
    room, name, number, seed = task
    rng = np.random.default_rng([seed, {"noise": 0, "planted": 100, "trades": 800, "quiet": 700}[room] + number])
    if room in ("noise", "quiet"):
        frame = (noise.FAMILIES if room == "noise" else trades.NOISE)[name][0](rng)
        return _made(str(ga.scan(frame, measures=frame.attrs.get("measures")).summary("long"))), []
    frame = (planted.FAMILIES if room == "planted" else trades.PLANTED)[name](rng, 1.0).frame
    made = _made(str(ga.scan(frame, measures=frame.attrs.get("measures")).summary("long")))
    return made, [one for one in made if one == "nothing"]


def sentences(pool: ProcessPoolExecutor, seeds: range) -> None:
    """Print how many statements of absence were made, and how many of them are wrong."""
    tasks: list[tuple[Callable[..., tuple[list[str], list[str]]], str, Iterable[str]]] = [
        (_on_change, "changes", changes.FAMILIES),
        (_on_change, "trades", trades.CHANGES),
        (_on_scan, "noise", noise.FAMILIES),
        (_on_scan, "quiet", trades.NOISE),
        (_on_scan, "planted", planted.FAMILIES),
        (_on_scan, "trades", trades.PLANTED),
    ]
    made: dict[str, int] = dict.fromkeys(SAID, 0)
    wrong: dict[str, int] = dict.fromkeys(SAID, 0)
    where: dict[str, int] = {}
    for work, room, families in tasks:
        for number, name in enumerate(families):
            for said, off in pool.map(work, [(room, name, number, seed) for seed in seeds]):
                for one in said:
                    made[one] += 1
                for one in off:
                    wrong[one] += 1
                    where[f"{name}: {one}"] = where.get(f"{name}: {one}", 0) + 1
    print(f"{'statement':<12}{'made':>7}{'wrong':>7}")
    for one in SAID:
        print(f"{one:<12}{made[one]:>7}{wrong[one]:>7}")
    total, off = sum(made.values()), sum(wrong.values())
    print(f"{'all':<12}{total:>7}{off:>7}   {100 * off / max(1, total):.1f}% wrong")
    for one, count in sorted(where.items(), key=lambda pair: (-pair[1], pair[0])):
        print(f"  {one}: {count}")
