"""Charts of a model: predicted against what came, and a tree as its branches."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..analysis.models import Chosen, Model
from ..analysis.models.binned_trees import Tree
from ..text import model_sentences as said
from ..text import names
from ..text.languages import say
from . import theme
from .axis_scales import axis_texts
from .chart import Chart, described, source_line, titled
from .tree_chart import tree


def _source(chosen: Chosen) -> str:
    return source_line(chosen.about.table, chosen.about.n)


def draw_calibration(model: Model, chosen: Chosen, title: str) -> Chart:
    """What was predicted for unseen rows, in bins, and what came; on the dashed line both are the same."""
    import pandas as pd

    points = np.array([one[:3] for one in chosen.calibration])
    measure = chosen.about.measure if model.yes_no else None
    figure = theme.figure(4.4)
    bottom, top = titled(
        figure,
        title,
        say(
            "Mean of {label} by what was predicted ({kind}) · rows not seen · whiskers: 95% range",
            label=names.noun(model.label),
            kind=said.kind(model),
        ),
        _source(chosen),
    )
    axes = figure.add_axes((0.085, bottom + 0.13, 0.88, top - bottom - 0.19))
    x, y, e = points.T
    ends = (min(x.min(), (y - 1.96 * e).min()), max(x.max(), (y + 1.96 * e).max()))
    axes.plot(ends, ends, color=theme.INK, linewidth=1, linestyle=(0, (3, 3)), zorder=1)
    axes.errorbar(x, y, yerr=1.96 * e, fmt="none", ecolor=theme.CONTEXT, elinewidth=1.2, zorder=2)
    axes.plot(x, y, linestyle="", marker="o", markersize=7, color=theme.ACCENT, zorder=3)
    theme.dress(axes)
    axis_texts(axes, measure)
    axis_texts(axes, measure, which="x")
    axes.set_xlabel(say("predicted"), fontsize=theme.LABEL, color=theme.QUIET, **theme.font())
    figure.text(
        0.015, top - 0.005, say("came"), fontsize=theme.LABEL, color=theme.QUIET, va="top", ha="left", **theme.font()
    )
    data = pd.DataFrame(list(chosen.calibration), columns=["predicted", "outcome", "error", "rows"])
    return Chart(
        name="calibration",
        figure=figure,
        data=data,
        title=title,
        subtitle="",
        alternative=described("Dot chart", f"{title}."),
        figures=_figures(chosen),
    )


def _figures(chosen: Chosen) -> tuple[float, ...]:
    """What the title of a model's chart may say beside what is drawn."""
    return (chosen.base, *(value for _, value, _ in chosen.scores))


def draw_tree(model: Model, chosen: Chosen, title: str) -> Chart:
    """The branches of a tree. Raises LookupError for other models."""
    if not isinstance(model.fitted, Tree):
        raise LookupError("only a tree has branches to draw")
    fitted = model.fitted
    nodes: list[tuple[int, str, str, float, int]] = []

    def walk(node: int, depth: int, text: str) -> None:
        which = int(fitted.feature[node])
        nodes.append(
            (depth, text, "leaf" if which < 0 else "branch", float(fitted.value[node]), int(fitted.rows[node]))
        )
        if which < 0:
            return
        feature = model.features[which]
        for side in (0, 1):
            keeps = fitted.left[node] if side == 0 else ~fitted.left[node]
            walk(int(fitted.children[node, side]), depth + 1, said.branch(feature, keeps[: feature.bins]))

    walk(0, 0, say("all rows"))
    written = [said.figure(node[3], model) for node in nodes]
    drawn = tree(
        name="tree",
        title=title,
        subtitle=say("{label}: what each branch predicts, and its rows", label=names.noun(model.label)),
        source=_source(chosen),
        nodes=nodes,
        written=written,
    )
    return replace(drawn, figures=_figures(chosen))
