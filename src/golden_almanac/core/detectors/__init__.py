"""Detectors: each looks for one kind of thing and returns candidates. See `registry`."""

from .registry import KINDS, Detector, load

__all__ = ["KINDS", "Detector", "load"]
