"""Series: seasonality, regressions with autocorrelated errors, monotone trends, paths."""
