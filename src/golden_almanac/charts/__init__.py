"""Charts: one file each, one look, no pyplot."""

from .chart import Chart
from .drawing import draw, draw_change

__all__ = ["Chart", "draw", "draw_change"]
