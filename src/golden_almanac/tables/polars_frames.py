"""Frames for callers who work in Polars, which the package itself does without."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from ..support.errors import OutputError

if TYPE_CHECKING:
    import polars as pl


def in_polars(data: Any) -> pl.DataFrame:
    """A pandas frame, or an Arrow table, as a Polars frame. Raises OutputError where Polars is not installed."""
    try:
        import polars
    except ImportError:
        raise OutputError("A frame of Polars", "Polars is not installed", "Install it: pip install polars.") from None
    import pandas as pd

    if not isinstance(data, pd.DataFrame):
        made = polars.from_arrow(data)
        assert isinstance(made, polars.DataFrame)
        return made
    # Columns of mixed things (a number here, a text there) are texts.
    plain = data.copy()
    for name in plain.columns:
        if plain[name].dtype == object and plain[name].dropna().map(type).nunique() > 1:
            plain[name] = plain[name].map(lambda value: None if value is None or value != value else str(value))
    return polars.DataFrame({str(name): plain[name].tolist() for name in plain.columns}, strict=False)
