"""The colours of the house by what they are for, on light and on dark paper."""

from __future__ import annotations

#: Paper, letters, rules between rows; what a sentence is about, what stands beside it, what is said quietly; good, bad.
LIGHT_PAPER = {
    "paper": "#FBF9F4",
    "ink": "#22262B",
    "rule": "#D9D4C7",
    "accent": "#A86A00",
    "context": "#8B877C",
    "quiet": "#5F625F",
    "good": "#1F6F78",
    "bad": "#9C3D2E",
}
DARK_PAPER = {
    "paper": "#1B1D20",
    "ink": "#ECE8DE",
    "rule": "#3A3C3D",
    "accent": "#E0A63B",
    "context": "#8F8C84",
    "quiet": "#B2AFA6",
    "good": "#5FB6C0",
    "bad": "#D98873",
}
