"""The look of every chart: colours, type, spacing. Nothing global is touched."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from functools import lru_cache
from importlib.resources import as_file, files
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..support.errors import OutputError
from ..support.house_colours import DARK_PAPER, LIGHT_PAPER
from .caller_axes import panel_for
from .palette import CATEGORIES, DARK_CATEGORIES

if TYPE_CHECKING:
    from matplotlib.figure import Figure

PAPER, INK, RULE = (LIGHT_PAPER[role] for role in ("paper", "ink", "rule"))
ACCENT, CONTEXT, QUIET = (LIGHT_PAPER[role] for role in ("accent", "context", "quiet"))
GOOD, BAD = (LIGHT_PAPER[role] for role in ("good", "bad"))
#: The same roles on dark paper, by the colour on light paper.
DARK = {
    **{colour: DARK_PAPER[role] for role, colour in LIGHT_PAPER.items()},
    **dict(zip(CATEGORIES, DARK_CATEGORIES, strict=True)),
}
#: Text on tiles whose colour does not turn: it keeps its own.
TILE_INK, TILE_PAPER = "#22262C", "#FBF9F5"
SERIF, SANS = "Source Serif 4", "Source Sans 3"
FALLBACK = "DejaVu Sans"
FONT_FILES = {
    "SourceSans3-Regular.ttf": (SANS, 400),
    "SourceSans3-SemiBold.ttf": (SANS, 600),
    "SourceSerif4-Regular.ttf": (SERIF, 400),
    "SourceSerif4-SemiBold.ttf": (SERIF, 600),
}
#: Points: title, subtitle, labels on marks, axis text.
TITLE, SUBTITLE, LABEL, AXIS = 14.0, 10.0, 10.0, 9.5
WIDTH, DPI = 8.0, 160


def font_file(name: str) -> Path:
    """Where a bundled font lies."""
    with as_file(files("golden_almanac.charts").joinpath("fonts", name)) as path:
        if not path.is_file():
            raise OutputError(f"the font {name}", "it is missing from this installation", "Install the package again.")
        return path


@lru_cache(maxsize=8)
def _font(name: str) -> Any:
    from matplotlib import font_manager

    path = str(font_file(name))
    font_manager.fontManager.addfont(path)
    _fall_back()
    return path


@lru_cache(maxsize=1)
def _fall_back() -> None:
    """The bold of the font to fall back on, known by the weight that ours have: else each drawing warns of it."""
    from dataclasses import replace

    from matplotlib import font_manager

    known = font_manager.fontManager.ttflist
    bold = next(
        (one for one in known if one.name == FALLBACK and one.weight in (700, "bold") and one.style == "normal"), None
    )
    if bold is not None:
        known.append(replace(bold, weight=600))


def font(*, serif: bool = False, bold: bool = False) -> dict[str, Any]:
    """Text properties for one of the four bundled fonts. Dollars in a label are dollars, not formulas."""
    name = f"Source{'Serif4' if serif else 'Sans3'}-{'SemiBold' if bold else 'Regular'}.ttf"
    _font(name)
    # Letters that the house fonts lack (Hebrew, Arabic, Greek, emoji) come from the font that Matplotlib carries.
    family = [SERIF if serif else SANS, FALLBACK]
    # Weights by name: older releases of Matplotlib write no numbers into an SVG.
    return {"family": family, "weight": "semibold" if bold else "normal", "parse_math": False}


def figure(height: float, *, several: bool = False) -> Figure:
    """An empty figure on paper, of the house width (inches), or what stands for one where the caller has axes to draw
    into (see `caller_axes`); `several` where more than one pair of axes will be put on it."""
    panel = panel_for(WIDTH, height, several)
    if panel is not None:
        return panel
    from matplotlib.figure import Figure

    return Figure(figsize=(WIDTH, height), facecolor=PAPER, dpi=DPI)


def name_rows(axes: Any, places: Any, names: Sequence[str], bold: Collection[int] = ()) -> None:
    """Names of horizontal bars at their places, no figures along the other axis, a line at nought."""
    dress(axes, grid="")
    axes.set_xticks([])
    axes.set_yticks(places, names)
    for place, label in enumerate(axes.get_yticklabels()):
        label.set(color=INK, fontsize=LABEL, va="center", linespacing=0.95, **font(bold=place in bold))
    axes.axvline(0, color=INK, linewidth=0.9, zorder=5)


def dress(axes: Any, *, grid: str = "y") -> None:
    """Light rules along one axis, no box, quiet ticks."""
    axes.set_facecolor(PAPER)
    for side in ("top", "right", "left", "bottom"):
        axes.spines[side].set_visible(False)
    # As a wish for ticks to come: to ask for their labels would make them all, twice.
    axes.tick_params(length=0, labelsize=AXIS, labelcolor=QUIET, pad=5, labelfontfamily=font()["family"])
    if grid:
        axes.grid(axis=grid, color=RULE, linewidth=0.8)
    axes.set_axisbelow(True)
