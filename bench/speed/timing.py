"""How long a command takes, as a whole process."""

from __future__ import annotations

import subprocess
import time
from collections.abc import Sequence


def seconds(command: Sequence[str]) -> float:
    """Wall seconds of a command that must succeed; what it prints is thrown away."""
    began = time.perf_counter()
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    return time.perf_counter() - began
