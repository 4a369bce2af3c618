"""The page on new kinds, walked: its five files make a kind that lacks nothing, in a copy of the package."""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
PAGE = ROOT / "docs" / "contributing" / "new-kind.md"
CONTRACT = "tests/analysis/detectors/test_contract.py"


def blocks() -> dict[str, str]:
    """Each file that the page shows, by its path."""
    text = PAGE.read_text("utf-8")
    python = re.findall(r"```python\n# (\S+)\n(.*?)```", text, re.DOTALL)
    guide = re.findall(r"```markdown\n<!-- (\S+) -->\n(.*?)```", text, re.DOTALL)
    return dict(python + guide)


@pytest.fixture
def copy(tmp_path: Path) -> Path:
    for name in ("src", "tests", "docs"):
        shutil.copytree(ROOT / name, tmp_path / name, ignore=shutil.ignore_patterns("__pycache__", "screenshots"))
    shutil.copy(ROOT / "pyproject.toml", tmp_path)
    return tmp_path


def run(copy: Path, *arguments: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, *arguments],
        cwd=copy,
        env={**os.environ, "PYTHONPATH": f"{copy / 'src'}{os.pathsep}{copy}"},
        capture_output=True,
        text=True,
    )


def test_five_files_make_a_kind(copy: Path) -> None:
    files = blocks()
    assert len(files) == 5
    assert not any((ROOT / path).exists() for path in files if path.endswith(".py"))
    detector = "src/golden_almanac/analysis/detectors/record.py"
    (copy / detector).write_text(files[detector], "utf-8")
    lacks = run(copy, "-c", "from tests.analysis.detectors.test_contract import lacking; print(lacking('record'))")
    for path in files:
        assert path == detector or "/".join(path.split("/")[-2:]) in lacks.stdout, (path, lacks.stderr)
    for path, content in files.items():
        target = copy / path
        target.write_text(target.read_text("utf-8") + content if path.endswith(".md") else content, "utf-8")
    tests = ["tests/analysis/detectors/test_record.py", CONTRACT]
    done = run(copy, "-m", "pytest", "-q", "-p", "no:cacheprovider", *tests, "-k", "record")
    assert done.returncode == 0, done.stdout + done.stderr
    listed = run(copy, "-m", "golden_almanac", "scan", "--kinds")
    assert re.search(r"record +a slice whose last period is its highest by far", listed.stdout), listed.stdout
