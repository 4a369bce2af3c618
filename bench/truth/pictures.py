"""python -m bench.truth.pictures FOLDER [--sweep SWEEP.json [BEFORE.json]] [--tails TAILS.json]: recall over strengths,
beside that of an earlier sweep, and tails, drawn."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

import numpy as np

from golden_almanac.charts import theme

#: Families whose stories are told by the same kinds, for one small chart each.
GROUPS = {
    "a part rises or falls": (
        "growing part", "shrinking part", "rising average of a part", "rising rate of a part", "bent part",
        "growing volume",
    ),
    "the whole rises or falls": ("growing whole", "falling whole", "rising average", "bent whole"),
    "a part steps up or down": ("step", "step down", "step of an average", "step of a rate"),
    "the whole steps up": ("step of the whole",),
    "the last months": ("recent drop", "bad month"),
    "averages and rates differ": ("low average", "high average", "high rate", "two differ", "nested"),
    "year, week, month": ("season", "weekday", "week of the month"),
    "wrong rows": ("hundredfold", "hundredth", "two wrong rows"),
    "weights shift": ("mix alone", "reversal"),
    "labels and columns end": ("label ends", "label begins", "label pauses", "unfilled", "months without rows"),
    "a week apart": ("bad week", "few rows", "dear week"),
    "odd pairs": ("odd pair", "missing pair"),
    "columns go together": ("going together", "going opposite"),
    "who leads": ("concentrated", "leader", "climber"),
    "shapes": ("heaps", "two humps"),
    "a day or month of a part": ("day of a part", "month of a part"),
    "two stories in one": ("two stories", "rise beside a greater", "small one grows"),
    "odd seasons": ("peak as a span", "season often nought"),
    "ratios of counts": ("unit with more events",),
}  # fmt: skip


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("folder", type=Path)
    parser.add_argument("--sweep", nargs="+", type=Path, help="figures of a sweep, and of one before")
    parser.add_argument("--tails", type=Path, help="figures of tails")
    options = parser.parse_args()
    if options.sweep:
        now, *before = [json.loads(path.read_text()) for path in options.sweep]
        drawn = _curves(now, before[0] if before else None)
        drawn.savefig(options.folder / "truth.png", dpi=110, facecolor=theme.PAPER)
    if options.tails:
        drawn = _tails(json.loads(options.tails.read_text()))
        drawn.savefig(options.folder / "tails.png", dpi=110, facecolor=theme.PAPER)


def _grid(count: int, title: str, subtitle: str) -> tuple[Any, list[Any]]:
    from matplotlib.figure import Figure

    columns = 4
    rows = -(-count // columns)
    figure = Figure(figsize=(11.6, 1.0 + 1.9 * rows), facecolor=theme.PAPER)
    height = figure.get_figheight()
    figure.text(
        0.02, 1 - 0.18 / height, title, va="top", fontsize=15, color=theme.INK, **theme.font(serif=True, bold=True)
    )
    figure.text(0.02, 1 - 0.50 / height, subtitle, va="top", fontsize=10, color=theme.QUIET, **theme.font())
    places = []
    for place in range(count):
        row, column = divmod(place, columns)
        left, bottom = 0.05 + column * 0.2425, 1 - (0.95 + 1.9 * (row + 1) - 0.42) / height
        places.append(figure.add_axes((left, bottom, 0.195, 1.25 / height)))
    return figure, places


def _dress(axes: Any, name: str) -> None:
    theme.dress(axes)
    axes.text(0, 1.06, name, transform=axes.transAxes, fontsize=10, color=theme.INK, **theme.font(bold=True))


def _curves(figures: dict[str, Any], before: dict[str, Any] | None = None) -> Any:
    groups = {name: [one for one in members if one in figures["families"]] for name, members in GROUPS.items()}
    groups = {name: members for name, members in groups.items() if members}
    count = sum(map(len, groups.values()))
    tables = figures["seeds"]
    figure, places = _grid(
        len(groups),
        "What is found, by how strong it is",
        f"Share of tables whose story is told, over its strength (1 is moderate) · {count} families, {tables} tables "
        f"each · gold: a scan{'; dashed: before' if before else ''}; grey: a plain script",
    )
    x = figures["strengths"]
    for axes, (name, members) in zip(places, groups.items(), strict=True):
        _dress(axes, f"{name} ({len(members)})")
        for which, colour, width in (("plain", theme.CONTEXT, 1.3), ("ours", theme.ACCENT, 2.2)):
            share = np.mean([figures["families"][one][which] for one in members], axis=0)
            axes.plot(x, share, color=colour, linewidth=width, marker="o", markersize=3.5, clip_on=False, zorder=3)
        if before is not None:
            share = np.mean([before["families"][one]["ours"] for one in members], axis=0)
            axes.plot(x, share, color=theme.INK, linewidth=1.2, linestyle=(0, (3, 2)), clip_on=False, zorder=4)
        axes.set_ylim(0, 1.0)
        axes.set_yticks([0, 0.5, 1.0], ["0", "50%", "100%"])
        axes.set_xticks([one for one in x if one in (0.5, 1.0, 1.5)])
        for label in (*axes.get_xticklabels(), *axes.get_yticklabels()):
            label.set(fontsize=9, **theme.font())
    return figure


def _tails(figures: dict[str, Any]) -> Any:
    kinds = figures["kinds"]
    figure, places = _grid(
        len(kinds),
        "How often chance looks as sure",
        "Share of tests on noise at or below a p-value, over that p-value, both by tens · dashed: as it should be · "
        "a line ends where fewer than one test is to be expected",
    )
    levels = np.array(figures["levels"])
    for axes, (kind, counted) in zip(places, kinds.items(), strict=True):
        tests = counted["tests"]
        _dress(axes, f"{kind} ({tests:,} tests)")
        axes.plot([1e-5, 0.1], [1e-5, 0.1], color=theme.INK, linewidth=0.9, linestyle=(0, (3, 3)), zorder=2)
        share = np.array(counted["below"]) / max(1, tests)
        shown = (share > 0) & (levels * tests >= 1)
        axes.plot(levels[shown], share[shown], color=theme.ACCENT, linewidth=2, marker="o", markersize=3.5, zorder=3)
        axes.set(xscale="log", yscale="log", xlim=(7e-6, 0.15), ylim=(7e-6, 0.3))
        axes.minorticks_off()
        axes.set_xticks([1e-5, 1e-4, 1e-3, 1e-2, 1e-1], ["1e-5", "1e-4", "0.001", "0.01", "0.1"])
        axes.set_yticks([1e-5, 1e-3, 1e-1], ["1e-5", "0.001", "0.1"])
        for label in (*axes.get_xticklabels(), *axes.get_yticklabels()):
            label.set(fontsize=8.5, **theme.font())
    return figure


if __name__ == "__main__":
    main()
