"""python -m bench.speed: whole commands as ratios to a plain import, timed in turn on the same machine."""

from __future__ import annotations

import statistics
import sys
import tempfile
from pathlib import Path

import golden_almanac as ga

from .timing import seconds

_RUNS = 5


def main() -> None:
    folder = Path(tempfile.mkdtemp(prefix="almanac-bench-"))
    sailings = ga.write_demo(folder)
    base = [sys.executable, "-c", "import pandas, matplotlib.figure, duckdb"]
    commands = {
        "--help": [sys.executable, "-m", "golden_almanac", "--help"],
        "scan": [sys.executable, "-m", "golden_almanac", "scan", str(sailings)],
        "change": [sys.executable, "-m", "golden_almanac", "change", str(sailings)],
        "demo": [sys.executable, "-m", "golden_almanac", "demo", "--to", str(folder / "demo")],
    }
    print(f"base: python -c 'import pandas, matplotlib.figure, duckdb'; medians of {_RUNS} runs in turn")
    for name, command in commands.items():
        pairs = [(seconds(command), seconds(base)) for _ in range(_RUNS)]
        ratio = statistics.median(a / b for a, b in pairs)
        print(f"{name:<8}{statistics.median(a for a, _ in pairs):6.2f} s   {ratio:5.2f} times the base")


if __name__ == "__main__":
    main()
