"""Yes and no, in their usual spellings."""

from __future__ import annotations

from ..reading_guide import Guide
from .interpretation import NO_GUIDE, Reading

_PAIRS = (
    ("true", "false"),
    ("yes", "no"),
    ("y", "n"),
    ("t", "f"),
    ("ja", "nein"),
    ("j", "n"),
    ("oui", "non"),
    ("sí", "no"),
    ("si", "no"),
    ("on", "off"),
    ("wahr", "falsch"),
    ("vrai", "faux"),
    ("x", ""),
)


def read(name: str, texts: list[str], guide: Guide = NO_GUIDE) -> Reading | None:
    """A reading if the texts are the two sides of one pair, in any case; both must be there."""
    import pyarrow as pa

    folded = {text.casefold() for text in texts}
    for yes, no in _PAIRS:
        if folded == {yes, no}:
            return Reading(
                what="yes and no",
                check="yes and no",
                values=[text.casefold() == yes for text in texts],
                type=pa.bool_(),
            )
    return None
