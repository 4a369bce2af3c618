"""Charts: one file each, one look, no pyplot."""

from .change_charts import CHANGE_CHARTS, draw_change, draw_change_as
from .chart import Chart
from .finding_charts import draw

__all__ = ["CHANGE_CHARTS", "Chart", "draw", "draw_change", "draw_change_as"]
