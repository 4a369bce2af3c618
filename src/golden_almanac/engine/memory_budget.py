"""How much memory a table may take: read from "4GB", or half of what the machine has."""

from __future__ import annotations

import os
import re
from pathlib import Path

from ..support.errors import RequestError

MB = 1 << 20
_UNITS = {"k": 10, "m": 20, "g": 30, "t": 40}
#: Where the machine does not tell what it has.
_UNKNOWN = 4 << 30
#: What the interpreter, its libraries and the cells of a usual scan take, beside the engine.
OWN = 400 * MB
#: What the engine needs to pass over a file at all, whatever the groups.
_ENGINE = 128 * MB
#: Bytes the engine takes for a group: its key and its running sums, twice while its table grows.
_KEY, _SUM = 64, 160


def bytes_of(text: str | int) -> int:
    """ "4GB", "500 MB" or a number of bytes. Raises RequestError."""
    if isinstance(text, int):
        return text
    found = re.fullmatch(r"\s*(\d+(?:\.\d+)?)\s*([kmgt])i?b?\s*", text.casefold())
    if found is None or float(found[1]) <= 0:
        raise RequestError("The memory budget", text, 'a size such as "4GB" or "500MB"')
    return int(float(found[1]) * (1 << _UNITS[found[2]]))


def half_of_machine() -> int:
    """Half of the memory of the machine, or of what the container it runs in may take."""
    try:
        whole = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")
    except (AttributeError, ValueError, OSError):
        return _UNKNOWN
    for place in ("/sys/fs/cgroup/memory.max", "/sys/fs/cgroup/memory/memory.limit_in_bytes"):
        try:
            whole = min(whole, int(Path(place).read_text(encoding="ascii")))
        except (OSError, ValueError):
            continue
    return whole // 2


def needed(groups: int, keys: int, sums: int) -> int:
    """The smallest budget for a grouping into so many groups by so many keys, of so many sums."""
    return OWN + _ENGINE + groups * (keys * _KEY + sums * _SUM)


def said(size: int) -> str:
    """A size as people write it, rounded up: "700MB", "1.5GB"."""
    if size >= 1000 * MB:
        return f"{-(-size * 10 // (1 << 30)) / 10:g}GB"
    return f"{-(-size // (10 * MB)) * 10}MB"
