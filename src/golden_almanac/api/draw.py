"""`ga.draw`: any frame as a chart in the house look."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Any

from ..charts import Chart
from ..charts.caller_axes import onto
from ..charts.frame_chart import draw_frame
from ..charts.frame_columns import Wishes
from ..charts.frame_kinds import DRAWN
from ..charts.palette import Palette
from .read import read
from .result_language import voiced

if TYPE_CHECKING:
    from matplotlib.axes import Axes


@voiced
def draw(
    data: Any,
    kind: str = "bars",
    *,
    title: str = "",
    subtitle: str = "",
    source: str = "",
    x: str | None = None,
    y: Sequence[str] | str | None = None,
    by: str | None = None,
    order: str = "value",
    most: int = 12,
    colours: Mapping[str, str] | Palette | None = None,
    unit: str = "",
    highlight: Sequence[str] | str | None = None,
    references: Mapping[str, float] | None = None,
    events: Mapping[str, str] | None = None,
    size: tuple[float, float] | None = None,
    partial_last: bool = False,
    forecast_from: str | None = None,
    locale: str | None = None,
    names: Mapping[str, str] | None = None,
    ax: Axes | None = None,
) -> Chart:
    """A frame (or anything `ga.read` takes) as a chart.

    Parameters
    ----------
    data
        Anything `ga.read` takes; a pandas DataFrame as it is.
    title, subtitle, source
        What stands above the chart and below it; the title is its message.
    kind
        line, bars, diverging, grouped, stacked, shares, dots, box, histogram, scatter, heat, crosstab, triangle,
        sparks or
        card.
    x, y, by
        The column of labels (or places along the axis), those of figures, and a second column of labels; the first
        that fit
        unless named. Lines and dots take columns `low` and `high` as a band.
    order, most
        value, label or given; how many categories are drawn, the rest being "other (n)".
    colours, unit, highlight
        `{"Outer Bar": "#1F5F99"}`, or a `Palette`, which gives a label the same colour in every chart it is handed to;
        what follows each number; labels to set off, or "above average".
    references, events
        Reference lines by name (`{"target": 90}`) and events along the axis (`{"2025-03": "dry dock"}`).
    size
        Inches, wide and high.
    partial_last, forecast_from
        The last place is unfinished (drawn hollow, bars hatched); the place from which a line is a forecast (dashed).

    locale, names
        The language of the result, and what its columns are called there (see `speaking`); of the caller by default.
    ax
        Matplotlib axes to draw into; the figure is the caller's then, and `size` is not heard.

    Returns
    -------
    Chart
        `png()`, `svg()`, `to_frame()`, `issues()`; missing figures leave gaps.

    What cannot be drawn (no rows, a single point, nothing but missing figures) becomes a sentence in place of a chart.

    Raises
    ------
    RequestError, ColumnError
        The kind, a wish or a column is not there.
    """
    import pandas as pd

    frame = data if isinstance(data, pd.DataFrame) else read(data).to_frame()
    wishes = Wishes(
        title=title,
        subtitle=subtitle,
        source=source,
        x=x,
        y=[y] if isinstance(y, str) else y,
        by=by,
        order=order,
        most=most,
        colours=colours or {},
        unit=unit,
        highlight=highlight,
        references=references or {},
        events=events or {},
        size=None if ax is not None else size,
        partial_last=partial_last,
        forecast_from=forecast_from,
    )
    with onto(ax):
        return draw_frame(frame, kind, wishes)


def gallery(source: Any) -> list[Chart]:
    """Every kind of chart once, from the demo's sailings (see `write_demo`).

    Parameters
    ----------
    source
        The demo's sailings: a path or a `Table`; missing figures leave gaps.

    Returns
    -------
    list of Chart
        One a kind.

    Raises
    ------
    ColumnError
        The table is not that of the demo.
    """
    from .gallery import gallery as drawn

    return drawn(read(source))


def chart_kinds() -> tuple[str, ...]:
    """The kinds of chart that `draw` knows."""
    return tuple(sorted(DRAWN))
