"""Forecasts measured on public series, against established implementations of the same families."""
