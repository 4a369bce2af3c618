"""The command line, run in this process: what a command says, and how it ends. That the program starts by itself, and
bears whatever streams it is given, is tested in processes of its own (`in_a_process`, `tests/attacks`)."""

from __future__ import annotations

import io
import os
import subprocess
import sys
from dataclasses import dataclass


@dataclass(frozen=True)
class Done:
    """What a command did: its status, and what it wrote to both streams."""

    returncode: int
    stdout: str
    stderr: str


def run(*arguments: object) -> Done:
    """Run a command; whatever it does, its status and both streams come back."""
    from golden_almanac.cli import main

    # A fault of our own shows itself, in place of the sentence that a user gets.
    os.environ["GOLDEN_ALMANAC_TRACE"] = "1"
    kept = sys.argv, sys.stdout, sys.stderr
    out, error = (io.TextIOWrapper(io.BytesIO(), encoding="utf-8", write_through=True) for _ in range(2))
    sys.argv = ["golden-almanac", *map(str, arguments)]
    sys.stdout, sys.stderr = out, error
    status: object = None
    try:
        main()
    except SystemExit as end:
        status = end.code
    finally:
        sys.argv, sys.stdout, sys.stderr = kept
    written = [one.buffer.getvalue().decode("utf-8", "replace") for one in (out, error)]  # type: ignore[attr-defined]
    return Done(int(status or 0), *written)  # type: ignore[call-overload]


def in_a_process(*arguments: object, **environment: str) -> Done:
    """The same as a program of its own, as a shell starts it."""
    done = subprocess.run(
        [sys.executable, "-m", "golden_almanac", *map(str, arguments)],
        capture_output=True,
        text=True,
        encoding="utf-8",
        env={**os.environ, **environment},
        timeout=120,
        stdin=subprocess.DEVNULL,
    )
    return Done(done.returncode, done.stdout, done.stderr)
