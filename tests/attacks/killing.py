"""Kill a publish at random moments, as a power cut would: the old edition stays, the new one is whole or not there.

`python -m tests.attacks.killing --times 50 --seed 1` is run by hand; it says how often which was found.
"""

from __future__ import annotations

import argparse
import contextlib
import os
import random
import shutil
import signal
import sqlite3
import subprocess
import sys
import tempfile
import time
from pathlib import Path

BRIEF = (
    'source = "t.csv"\ntitle = "{title}"\nformats = ["html", "md", "json", "csv", "xlsx", "png", "svg"]\nout = "out"\n'
)


def tree(folder: Path) -> dict[str, bytes]:
    return {str(path.relative_to(folder)): path.read_bytes() for path in sorted(folder.rglob("*")) if path.is_file()}


def publish(folder: Path) -> subprocess.Popen[bytes]:
    return subprocess.Popen(
        [sys.executable, "-m", "golden_almanac", "publish", "b.toml"],
        cwd=folder, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, start_new_session=True,
    )  # fmt: skip


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--times", type=int, default=50)
    parser.add_argument("--seed", type=int, default=1)
    given = parser.parse_args()
    chance = random.Random(given.seed)
    found = {"old": 0, "new": 0, "mixture": 0}
    with tempfile.TemporaryDirectory(prefix="almanac-kill-") as name:
        folder = Path(name)
        rows = [f"2024-{m:02d}-{d:02d},{'AB'[d % 2]},{m * d}" for m in range(1, 13) for d in range(1, 29)]
        (folder / "t.csv").write_text("date,quay,fare\n" + "\n".join(rows) + "\n", "utf-8")
        titles = {"2024-12-28": "the old edition", "2024-12-28-2": "the new edition"}
        editions = {}
        for name, title in titles.items():
            (folder / "b.toml").write_text(BRIEF.format(title=title), "utf-8")
            began = time.monotonic()
            assert publish(folder).wait() == 0
            took = time.monotonic() - began
            editions[name] = tree(folder / "out" / name)
        old, new = editions.values()
        assert old != new
        for turn in range(given.times):
            shutil.rmtree(folder / "out" / "2024-12-28-2", ignore_errors=True)
            running = publish(folder)
            if turn % 2:
                # Half of the moments lie where the folder is being put in place.
                end = time.monotonic() + 2 * took
                making = folder / "out"
                while time.monotonic() < end and running.poll() is None and not list(making.glob(".almanac-folder-*")):
                    time.sleep(0.0005)
                time.sleep(chance.random() * 0.03)
            else:
                time.sleep(chance.random() * took)
            with contextlib.suppress(ProcessLookupError):
                os.killpg(running.pid, signal.SIGKILL)
            running.wait()
            kept = tree(folder / "out" / "2024-12-28") == old
            after = tree(folder / "out" / "2024-12-28-2")
            found["mixture" if not kept or after not in ({}, new) else "new" if after else "old"] += 1
        # What was left in the making goes with the next publish, and the index knows both editions.
        assert publish(folder).wait() == 0
        left = [path.name for path in (folder / "out").iterdir() if path.name.startswith(".almanac")]
        with sqlite3.connect(folder / "out" / "editions.sqlite") as index:
            assert sorted(row[0] for row in index.execute("SELECT edition FROM editions")) == sorted(titles)
        assert tree(folder / "out" / "2024-12-28-2") == new
    sys.stdout.write(f"killed {given.times} times, seed {given.seed}: {found}; left behind afterwards: {left}\n")
    return 1 if found["mixture"] or left else 0


if __name__ == "__main__":
    raise SystemExit(main())
