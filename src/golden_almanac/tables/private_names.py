"""The names of private columns, by themselves or as digests: what is published may not even name them."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable

_DIGEST = "sha256:"


def digest_of(name: str) -> str:
    """A name as a digest, which finds the column again and tells nobody what it is called."""
    return name if name.startswith(_DIGEST) else _DIGEST + hashlib.sha256(name.casefold().encode("utf-8")).hexdigest()


def wanted_of(names: Iterable[str]) -> frozenset[str]:
    """Names as they are compared."""
    return frozenset(name if name.startswith(_DIGEST) else name.casefold() for name in names)


def is_among(name: str, wanted: frozenset[str]) -> bool:
    """Whether a column's name is one of those, or has one of the digests."""
    return name.casefold() in wanted or (any(one.startswith(_DIGEST) for one in wanted) and digest_of(name) in wanted)
