"""The layers hold, the import is light, and the public names are those meant."""

from __future__ import annotations

import inspect
import re
import subprocess
import sys
from pathlib import Path

import pytest

import golden_almanac as ga
from golden_almanac.api.scan import finding_kinds

ROOT = Path(__file__).parent.parent


def test_layers() -> None:
    done = subprocess.run(
        [sys.executable, "-c", "from importlinter.cli import lint_imports_command; lint_imports_command()"],
        cwd=ROOT,
        capture_output=True,
        text=True,
    )
    assert done.returncode == 0, done.stdout + done.stderr


def test_importing_the_package_loads_nothing_heavy() -> None:
    code = (
        "import sys, golden_almanac, golden_almanac.cli; "
        "heavy = ('numpy', 'pandas', 'scipy', 'matplotlib', 'duckdb', 'pyarrow', 'sqlglot'); "
        "print([name for name in heavy if name in sys.modules])"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"


def test_scanning_loads_no_plotting_and_no_statistics_package(sailings: Path) -> None:
    code = (
        "import sys, golden_almanac as ga; ga.scan(sys.argv[1], measures=['sum(revenue)'], by=['route']).to_dict(); "
        "print([m for m in ('matplotlib.pyplot', 'scipy.stats', 'scipy.optimize') if m in sys.modules])"
    )
    done = subprocess.run([sys.executable, "-c", code, str(sailings)], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"


def test_public_names() -> None:
    for name in ga.__all__:
        assert getattr(ga, name) is not None
        assert name.startswith("__") or getattr(ga, name).__doc__
    assert set(dir(ga)) == set(ga.__all__)


PUBLIC = [name for name in ga.__all__ if inspect.isfunction(getattr(ga, name))]


@pytest.mark.parametrize("name", PUBLIC)
def test_every_public_function_says_what_it_takes_gives_and_refuses(name: str) -> None:
    """Each parameter under a heading of its own; what comes back, in which unit, what missing values do; the errors."""
    told = inspect.getdoc(getattr(ga, name)) or ""
    for section in ("Parameters\n-", "Returns\n-", "Raises\n-"):
        assert section in told, (name, section)
    taken = told.split("Parameters\n", 1)[1].split("Returns\n", 1)[0]
    headings = {word for line in re.findall(r"^(\w[\w, ]*)$", taken, re.MULTILINE) for word in line.split(", ")}
    assert set(inspect.signature(getattr(ga, name)).parameters) <= headings, name
    assert "missing" in told or not {"source", "data", "left", "outcome"} & headings, name


@pytest.mark.long
def test_types() -> None:
    done = subprocess.run([sys.executable, "-m", "mypy"], cwd=ROOT, capture_output=True, text=True)
    assert done.returncode == 0, done.stdout


def test_style() -> None:
    done = subprocess.run(
        [sys.executable, "-m", "ruff", "check", "src", "tests", "bench", "examples"],
        cwd=ROOT,
        capture_output=True,
        text=True,
    )
    assert done.returncode == 0, done.stdout


def test_every_dependency_has_its_reason() -> None:
    page = (ROOT / "docs" / "dependencies.md").read_text(encoding="utf-8")
    for name in re.findall(
        r'^  "([A-Za-z0-9-]+)[>=]', (ROOT / "pyproject.toml").read_text(encoding="utf-8"), re.MULTILINE
    ):
        assert f"`{name}`" in page, name


def test_no_file_name_stands_twice_in_the_package() -> None:
    """But for the files of one kind of finding across its rooms."""
    names = [path.stem for path in (ROOT / "src").rglob("*.py") if not path.stem.startswith("__")]
    assert sorted({name for name in names if names.count(name) > 1} - set(finding_kinds())) == []


@pytest.mark.parametrize(
    "command",
    [["check", "t.csv"], ["scan", "t.csv"], ["change", "t.csv", "-m", "revenue"]],
    ids=lambda command: command[0],
)
def test_commands_on_a_file_load_no_data_frames(command: list[str], sailings: Path, tmp_path: Path) -> None:
    """Half a second of every command, for what only data frames need; Arrow's own way to NumPy loads them, too."""
    lines = sailings.read_text(encoding="utf-8").splitlines()
    (tmp_path / "t.csv").write_text("\n".join([lines[0], *lines[1::50]]) + "\n", encoding="utf-8")
    code = (
        "import sys; from golden_almanac.cli import main\n"
        "try:\n    main()\n"
        "except SystemExit as end:\n    assert end.code in (0, None), end.code\n"
        "print('pandas' in sys.modules, file=sys.stderr)"
    )
    done = subprocess.run([sys.executable, "-c", code, *command], cwd=tmp_path, capture_output=True, text=True)
    assert done.returncode == 0, done.stderr
    assert done.stderr.splitlines()[-1] == "False"
