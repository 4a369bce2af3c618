"""Detectors: each looks for one kind of thing and returns candidates. See `registry`."""

from .registry import Detector, floor_of, kinds, load

__all__ = ["Detector", "floor_of", "kinds", "load"]
