"""Analyses: each from tables and cells to candidates and results, as codes and figures; nothing is drawn or printed."""
