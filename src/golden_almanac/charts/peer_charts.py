"""Own figures beside peers, drawn: a strip of peers a line, the better side at the right, the own place lit."""

from __future__ import annotations

import numpy as np

from ..analysis.peers import PeerLine, Peers
from ..text import names
from ..text.languages import say
from ..text.peer_sentences import line_name, value
from . import theme
from .chart import Chart, described, more_left_out, row_names, titled
from .marks import Mark

#: Lines that a picture has room for; how far out a peer may lie, in widths of the middle half.
_LINES, _OUT = 10, 2.6


def draw_strips(found: Peers, title: str) -> Chart:
    """A row a line: each peer a dot, the middle a stroke, the middle half a band, the own place in gold with its value.
    Each line has its own scale; where less is better it runs to the left."""
    import pandas as pd

    lines = found.lines[:_LINES]
    subtitle = say(
        "Each dot a peer, the stroke their middle, the band their middle half; better, where known, is right"
    )
    if len(found.lines) > len(lines):
        subtitle = f"{subtitle} · {more_left_out(len(found.lines) - len(lines))}"
    shown = row_names([names.capital(line_name(line)) for line in lines], 30)
    figure = theme.figure(1.5 + (0.44 + shown.more) * len(lines) + 0.25 * (len(title) > 74))
    bottom, top = titled(figure, title, subtitle, say("Source: {name}", name=found.peers.name))
    left = 0.03 + min(0.32, 0.0115 * shown.longest)
    axes = figure.add_axes((left, bottom, 0.82 - left, top - bottom))
    places = np.arange(len(lines))[::-1]
    marks = []
    for row, (line, y) in enumerate(zip(lines, places, strict=True)):
        own, peers, half = _scaled(line)
        axes.plot([-1.08, 1.08], [y, y], color=theme.RULE, linewidth=0.8, zorder=1)
        axes.fill_between(half, y - 0.2, y + 0.2, color=theme.CONTEXT, alpha=0.25, linewidth=0, zorder=1)
        axes.plot(peers, np.full(peers.size, y), linestyle="none", marker="o", markersize=5.5, color=theme.CONTEXT,
                  alpha=0.75, zorder=3)  # fmt: skip
        axes.plot([0, 0], [y - 0.27, y + 0.27], color=theme.INK, linewidth=1.6, zorder=4)
        dot = axes.plot([own], [y], linestyle="none", marker="D", markersize=8, color=theme.ACCENT, zorder=5)
        marks.append(Mark(artist=dot[0], column="own", row=row, lit=True))
        axes.annotate(
            say("{own} (middle {middle})", own=value(line, line.own), middle=value(line, line.median)),
            (1.1, y), xytext=(4, 0), textcoords="offset points", va="center", ha="left", fontsize=theme.LABEL,
            color=theme.INK, annotation_clip=False, **theme.font(bold=line.side != 0),
        )  # fmt: skip
    axes.set_xlim(-1.12, 1.12)
    axes.set_ylim(-0.6, len(lines) - 0.4)
    theme.name_rows(axes, places, shown.shown, {row for row, line in enumerate(lines) if line.side})
    axes.set_xticks([])
    for spine in axes.spines.values():
        spine.set_visible(False)
    data = pd.DataFrame({
        say("Figure", "column"): [names.capital(line_name(line)) for line in lines],
        "own": [line.own for line in lines],
        "median": [line.median for line in lines],
    })  # fmt: skip
    listed = "; ".join(
        say(
            "{own} (middle {middle})", own=f"{line_name(line)} {value(line, line.own)}", middle=value(line, line.median)
        )
        for line in lines
    )
    return Chart(
        name="peers",
        figure=figure,
        data=data,
        title=title,
        subtitle=subtitle,
        scope=subtitle,
        marks=tuple(marks),
        alternative=described("Strips of dots", f"{title} {listed}."),
        shown={
            "own": [value(line, line.own) for line in lines],
            "median": [value(line, line.median) for line in lines],
        },
        figures=(),
    )


def _scaled(line: PeerLine) -> tuple[float, np.ndarray, tuple[float, float]]:
    """The own place, the peers and their middle half between -1 and 1, the better side at the right, the middle at 0;
    what lies far out stands at the end."""
    seen = line.values[np.isfinite(line.values)]
    low, high = (float(np.quantile(seen, level)) for level in (0.25, 0.75))
    wide = max(high - line.median, line.median - low, 1e-12 * max(abs(line.median), 1e-300)) * _OUT
    side = -1.0 if line.way == "down" else 1.0
    own, *rest = np.clip(side * (np.array([line.own, low, high, *seen]) - line.median) / wide, -1.0, 1.0)
    ends = sorted(rest[:2])
    return float(own), np.array(rest[2:]), (float(ends[0]), float(ends[1]))
