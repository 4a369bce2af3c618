"""Detectors: each looks for one kind of thing and returns candidates. See `registry`."""

from .registry import FLOORS, KINDS, Detector, floor_of, load

__all__ = ["FLOORS", "KINDS", "Detector", "floor_of", "load"]
