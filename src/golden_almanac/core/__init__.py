"""Computation only: nothing here draws, formats for people, writes files or prints."""
