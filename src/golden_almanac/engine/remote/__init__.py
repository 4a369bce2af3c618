"""Rows that stay where they are, on engines that others operate: one adapter an engine, one store over all of them."""
