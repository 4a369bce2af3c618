"""A chart drawn into axes that the caller owns, in place of a figure of its own.

Charts are laid out on a figure of the house width: title and source above and below, marks between. `Panel` stands in
for that figure. Where a chart has one pair of axes, the caller's are taken, and what stood around them keeps its
distance in inches, as letters keep their size; where it has several, they are inset, and the caller's are their frame.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, cast

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

#: Where the text of a figure begins, as a share of its width.
LEFT = 0.015
#: Axes narrower than this (inches) are written over as if they were so wide: shorter lines say nothing.
_NARROWEST = 2.5
#: Lines may reach so far past the axes, where the room between two of them is.
_PAST = 1.2


@dataclass(slots=True)
class Panel:
    """What the drawing functions ask of a figure, done to the caller's axes; sizes in inches, places as shares of a
    figure that is `width` by `height`."""

    axes: Axes
    width: float
    height: float
    several: bool
    _rect: tuple[float, float, float, float] | None = None
    _around: list[tuple[Any, float]] = field(default_factory=list)

    def get_figheight(self) -> float:
        return self.height

    def get_figwidth(self) -> float:
        """The width that there is for lines of text."""
        box, owner = self.axes.get_position(), self.axes.get_figure(root=True)
        return max(_NARROWEST, _PAST * box.width * (self.width if owner is None else owner.get_figwidth()))

    def add_axes(self, rect: tuple[float, float, float, float]) -> Axes:
        if self.several:
            return self.axes.inset_axes(rect)
        self._rect = rect
        for artist, place in self._around:
            artist.set_transform(self._beside(place))
        return self.axes

    def text(self, x: float, y: float, text: str, **wishes: Any) -> Any:
        return self._placed(self.axes.text(x, y, text, clip_on=False, **wishes), y)

    def add_artist(self, artist: Any) -> Any:
        """A rectangle, in shares of the figure."""
        self.axes.add_artist(artist)
        artist.set_clip_on(False)
        return self._placed(artist, artist.get_y())

    @property
    def transFigure(self) -> Any:
        return self.axes.transAxes

    def _placed(self, artist: Any, y: float) -> Any:
        self._around.append((artist, y))
        artist.set_transform(self.axes.transAxes if self._rect is None else self._beside(y))
        return artist

    def _beside(self, y: float) -> Any:
        """From places on the figure to the screen: so many inches from the upper or lower left corner of the axes."""
        from matplotlib.transforms import Affine2D, ScaledTranslation

        assert self._rect is not None
        _, bottom, _, high = self._rect
        owner = self.axes.get_figure(root=True)
        assert owner is not None
        above = y > bottom + high / 2
        edge = bottom + high if above else bottom
        inches = Affine2D().translate(-LEFT, -edge).scale(self.width, self.height)
        corner: Any = self.axes.transAxes
        return inches + owner.dpi_scale_trans + ScaledTranslation(0, 1.0 if above else 0.0, corner)


_wanted: ContextVar[Axes | None] = ContextVar("wanted", default=None)


@contextmanager
def onto(axes: Axes | None) -> Iterator[None]:
    """Inside, the next chart is drawn into `axes`; without any, charts have figures of their own as ever. Raises
    RequestError for what is no axes."""
    if axes is not None and not hasattr(axes, "inset_axes"):
        from ..support.errors import RequestError

        raise RequestError("ax", type(axes).__name__, "axes of Matplotlib, such as `figure, ax = plt.subplots()` gives")
    if axes is None:
        yield
        return
    token = _wanted.set(axes)
    try:
        yield
    finally:
        _wanted.reset(token)


def panel_for(width: float, height: float, several: bool) -> Figure | None:
    """The caller's axes as a figure for the chart that is drawn next, where there are such."""
    axes = _wanted.get()
    if axes is None:
        return None
    # One chart fits: whatever else is drawn on the way has a figure of its own.
    _wanted.set(None)
    if several:
        axes.set_axis_off()
    return cast("Figure", Panel(axes, width, height, several))
