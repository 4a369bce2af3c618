"""Findings: the fact, its evidence and check, its score, and control of false discoveries."""

from .finding import Candidate, Check, Finding, Score, Slice, Test
from .known_notes import Note

__all__ = ["Candidate", "Check", "Finding", "Note", "Score", "Slice", "Test"]
