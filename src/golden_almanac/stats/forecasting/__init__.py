"""Forecasts of series: candidates of several families, all series and all origins of a table at once."""
