"""The package as others install it: a wheel in a fresh environment, with the lowest and with the newest versions of
every dependency that it allows; then `doctor`, and the demo twice (the second time over what the first wrote).

`python -m bench.install` prints sizes and times; it needs the network. Lowest are the lowest minor releases that
`pyproject.toml` names, each in its last repair.
"""

from __future__ import annotations

import re
import subprocess
import sys
import tempfile
import time
import tomllib
from pathlib import Path

ROOT = Path(__file__).parents[1]


def lowest() -> list[str]:
    """A constraint for each dependency."""
    project = tomllib.loads((ROOT / "pyproject.toml").read_text(encoding="utf-8"))["project"]
    found = (re.match(r"([A-Za-z0-9_.-]+)(?:\[.*\])?>=([0-9.]+)", text) for text in project["dependencies"])
    return [f"{one[1]}=={one[2]}.*" for one in found if one is not None]


def size(folder: Path) -> float:
    """Megabytes of all files below a folder."""
    return sum(path.stat().st_size for path in folder.rglob("*") if path.is_file()) / 1e6


def run(*words: object, cwd: Path) -> str:
    done = subprocess.run([str(word) for word in words], cwd=cwd, capture_output=True, text=True)
    if done.returncode:
        raise SystemExit(
            f"{' '.join(map(str, words))}: status {done.returncode}\n{done.stdout[-800:]}{done.stderr[-2000:]}"
        )
    return done.stdout


def main() -> None:
    with tempfile.TemporaryDirectory() as name:
        home = Path(name)
        run(sys.executable, "-m", "pip", "wheel", "-q", "--no-deps", "-w", home, ROOT, cwd=home)
        wheel = next(home.glob("*.whl"))
        sys.stdout.write(f"wheel: {wheel.stat().st_size / 1e6:.1f} MB\n")
        for which, limits in (("newest", []), ("lowest", lowest())):
            place = home / which
            run(sys.executable, "-m", "venv", place, cwd=home)
            before, began = size(place), time.perf_counter()
            run(place / "bin/python", "-m", "pip", "install", "-q", wheel, *limits, cwd=home)
            took = time.perf_counter() - began
            program = place / "bin/golden-almanac"
            run(program, "doctor", cwd=home)
            for _ in range(2):
                run(program, "demo", "--to", home / f"{which}-demo", cwd=home)
            sys.stdout.write(
                f"{which}: installed in {took:.0f} s, {size(place) - before:.0f} MB; doctor and demo pass\n"
            )


if __name__ == "__main__":
    main()
