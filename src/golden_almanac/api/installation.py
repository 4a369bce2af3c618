"""What this installation can do: packages and their versions, extras, fonts, machine, folders; and what it cannot."""

from __future__ import annotations

import os
import platform
import shutil
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from importlib.metadata import PackageNotFoundError, requires, version
from importlib.util import find_spec

from ..charts import theme
from ..engine import memory_budget
from ..support.errors import AlmanacError

_NAME = "golden-almanac"
#: What each extra is for, and what shows that it is there.
_EXTRAS = {
    "sql": ("tables of a database by its address", ("sqlalchemy", "psycopg", "tenacity")),
    "spark": ("tables of Spark", ("pyspark",)),
}
#: Free room for files in between, below which large tables do not fit.
_LEAST_ROOM = 1 << 30


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """One thing looked at: what it is, whether it is as it must be (None where nothing needs it), how it is, and what
    to do where it is not. `package` says whether it is one of those that are needed."""

    name: str
    works: bool | None
    state: str
    remedy: str = ""
    package: bool = False


def installation() -> list[Part]:
    """Everything that the product needs or can use, in the order in which a person would ask for it."""
    return [*_program(), *_packages(), *_extras(), *_fonts(), *_machine()]


def _program() -> Iterator[Part]:
    system = f"{platform.system()} {platform.machine()}"
    yield Part(
        name="program", works=True, state=f"{_NAME} {version(_NAME)}, Python {platform.python_version()}, {system}"
    )


def _packages() -> Iterator[Part]:
    from packaging.requirements import Requirement

    for text in requires(_NAME) or ():
        wanted = Requirement(text)
        if wanted.marker is not None and not wanted.marker.evaluate({"extra": ""}):
            continue
        try:
            found = version(wanted.name)
        except PackageNotFoundError:
            found = ""
        fits = bool(found) and wanted.specifier.contains(found, prereleases=True)
        state = found if fits else f"{found}, not {wanted.specifier}" if found else "not installed"
        remedy = "" if fits else f"pip install '{wanted}'"
        yield Part(name=wanted.name, works=fits, state=state, remedy=remedy, package=True)


def _extras() -> Iterator[Part]:
    for name, (purpose, packages) in _EXTRAS.items():
        missing = [package for package in packages if find_spec(package) is None]
        state = f"{purpose}: installed" if not missing else f"{purpose}: not installed ({', '.join(missing)})"
        yield Part(
            name=f"[{name}]", works=None, state=state,
            remedy=f"pip install '{_NAME}[{name}]'" if missing else "",
        )  # fmt: skip
    java = shutil.which("java")
    yield Part(name="java", works=None, state="found" if java else "not found: Spark on this machine needs it")


def _fonts() -> Iterator[Part]:
    missing = []
    for name in theme.FONT_FILES:
        try:
            theme.font_file(name)
        except AlmanacError:
            missing.append(name)
    yield Part(
        name="fonts", works=not missing,
        state="those of the house" if not missing else f"missing: {', '.join(missing)}",
        remedy="" if not missing else "Install the package again.",
    )  # fmt: skip


def _machine() -> Iterator[Part]:
    count = len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else os.cpu_count() or 1
    budget = memory_budget.said(memory_budget.half_of_machine())
    yield Part(
        name="machine", works=True, state=f"{count} processors; tables of up to {budget} are held in memory (--memory)"
    )
    folder = tempfile.gettempdir()
    free = shutil.disk_usage(folder).free
    yield Part(
        name="room", works=free >= _LEAST_ROOM,
        state=f"{memory_budget.said(free)} free for files in between, in {folder}",
        remedy="" if free >= _LEAST_ROOM else "Make room, or set TMPDIR to a folder with more of it.",
    )  # fmt: skip
    home = os.path.realpath(os.curdir)
    writable = os.access(home, os.W_OK)
    yield Part(
        name="folder", works=writable, state="may be written to" if writable else "may not be written to",
        remedy="" if writable else "Go to a folder of yours, or name one with -o.",
    )  # fmt: skip
