"""Pages of reference, written from the code: public names from their docstrings, commands from their parser, the brief
from its schema.

`python -m site_build.reference` writes them to `docs/reference`; a test holds them to the code.
"""

from __future__ import annotations

import inspect
import json
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import golden_almanac as ga
from golden_almanac.cli.app import assembled
from golden_almanac.reports.brief_model import brief_schema

from .kinds import kind_pages

HERE = Path(__file__).parents[1] / "docs" / "reference"
#: How public names are grouped, in the order of a day's work; what is in no group is an error or stands at the end.
GROUPS = {
    "Reading": ("read", "read_all", "join", "check", "read_notes", "Table", "Calendar", "Readiness"),
    "Finding": ("scan", "explain_change", "explain_changes", "find_drivers", "Scan", "Finding", "Note", "Change",
                "Drivers"),
    "Comparing and modelling": ("compare", "relate", "regress", "model_outcome", "load_model", "Comparison",
                                "OutcomeModel"),
    "Adding up": ("total", "list_rows", "table_of", "growth", "key_figures", "Figures", "Printed", "GrowthRates"),
    "Standing jobs": ("cohorts", "peers", "review_ledger", "forecast", "scenarios", "read_scenarios", "Cohorts",
                      "PeerComparison", "LedgerBooks", "Forecast", "Scenario", "Scenarios"),
    "Asking": ("ask", "conversation", "questions", "Answer", "Conversation"),
    "Publishing": ("report", "draw", "gallery", "publish_brief", "read_brief", "write_brief", "editions", "verify",
                   "speaking", "Report", "Brief", "Edition", "Verification", "Palette"),
    "Trying it": ("write_demo",),
}  # fmt: skip


def names_page() -> str:
    """All public names, with their signatures and docstrings."""
    told = {name for names in GROUPS.values() for name in names}
    errors = [name for name in ga.__all__ if name not in told and name != "__version__"]
    lines = ["# Public names", "", "Everything that `import golden_almanac as ga` has; what is not here may move.", ""]
    for head, names in {**GROUPS, "Errors": tuple(errors)}.items():
        lines += [f"## {head}", ""]
        for name in names:
            lines += [*_of(name, getattr(ga, name)), ""]
    return "\n".join(lines).rstrip() + "\n"


def _of(name: str, thing: Any) -> Iterator[str]:
    yield f"### {name}"
    yield ""
    if inspect.isclass(thing):
        yield from _text(thing)
        for own, method in sorted(vars(thing).items()):
            if own.startswith("_") or not (callable(method) or isinstance(method, property)):
                continue
            plain = method.fget if isinstance(method, property) else inspect.unwrap(method)
            said = inspect.getdoc(plain)
            if said and not isinstance(method, type):
                first = said.split("\n\n")[0].replace("\n", " ")
                yield f"- `{own}{'' if isinstance(method, property) else '()'}`: {first}"
        return
    yield "```text"
    yield f"{name}{_signature(thing)}"
    yield "```"
    yield ""
    yield from _text(thing)


def _signature(thing: Any) -> str:
    """One parameter a line, without annotations: the docstring says what each is."""
    told, starred = [], False
    for one in inspect.signature(inspect.unwrap(thing)).parameters.values():
        if one.kind is one.KEYWORD_ONLY and not starred:
            told, starred = [*told, "*"], True
        usual = "" if one.default is one.empty or callable(one.default) else f"={one.default!r}"
        told.append(f"{'**' if one.kind is one.VAR_KEYWORD else ''}{one.name}{usual}")
    line = f"({', '.join(told)})"
    return line if len(line) < 90 else "(\n    " + ",\n    ".join(told) + ",\n)"


def _text(thing: Any) -> Iterator[str]:
    """A docstring, its sections as heads and its parameters as a list."""
    lines = (inspect.getdoc(thing) or "").splitlines()
    place = 0
    while place < len(lines):
        line = lines[place]
        after = lines[place + 1] if place + 1 < len(lines) else ""
        if line and after and set(after) == {"-"}:
            yield ""
            yield f"**{line}**"
            yield ""
            place += 2
            continue
        if line and not line.startswith(" ") and after.startswith("    "):
            place += 1
            said = []
            while place < len(lines) and (lines[place].startswith("    ") or not lines[place]):
                said.append(lines[place].strip())
                place += 1
            yield f"- `{line}`: {' '.join(said).strip()}"
            continue
        yield line
        place += 1


def commands_page() -> str:
    """Every command, as its help says it."""
    from typer.main import get_command
    from typer.testing import CliRunner

    lines = ["# Commands", "", "What `golden-almanac COMMAND --help-all` says.", ""]
    runner, app = CliRunner(), assembled()
    for command in sorted(get_command(app).commands):  # type: ignore[attr-defined]
        everything = "--help-all" in _options(command)
        said = runner.invoke(app, [command, "--help-all" if everything else "--help"], prog_name="golden-almanac",
                             env={"COLUMNS": "100", "TERMINAL_WIDTH": "100"})  # fmt: skip
        lines += [f"## {command}", "", "```text", said.stdout.strip(), "```", ""]
    return "\n".join(lines).rstrip() + "\n"


def _options(command: str) -> list[str]:
    from typer.main import get_command

    return [name for one in get_command(assembled([command])).commands[command].params for name in one.opts]  # type: ignore[attr-defined]


def brief_page() -> str:
    """The keys of a brief, table by table, from the schema that editors check one by."""
    said = json.loads(brief_schema())
    lines = [
        "# Keys of a brief",
        "",
        "The schema is [golden-almanac-brief.schema.json](../golden-almanac-brief.schema.json).",
        "",
    ]
    for name, part in {"The brief itself": said, **said["$defs"]}.items():
        lines += [f"## {name.removeprefix('Brief')}", "", part.get("description", "").strip(), ""]
        lines += ["| key | kind | what it is |", "|---|---|---|"]
        for key, one in part.get("properties", {}).items():
            lines.append(f"| `{key}` | {_kind(one)} | {one.get('description', '').replace('|', '·')} |")
        lines.append("")
    return "\n".join(lines).rstrip() + "\n"


def _kind(one: dict[str, Any]) -> str:
    if "$ref" in one:
        return one["$ref"].rpartition("/")[2].removeprefix("Brief")
    if "anyOf" in one:
        return " or ".join(dict.fromkeys(_kind(part) for part in one["anyOf"] if part.get("type") != "null"))
    if one.get("type") == "array":
        return f"list of {_kind(one.get('items', {}))}"
    if "enum" in one:
        return ", ".join(map(str, one["enum"]))
    return {"string": "text", "integer": "whole number", "boolean": "true or false", "object": "table"}.get(
        one.get("type", ""), one.get("type", "any")
    )


PAGES = {"names.md": names_page, "commands.md": commands_page, "brief.md": brief_page}
KINDS = HERE.parent / "kinds"


if __name__ == "__main__":
    HERE.mkdir(exist_ok=True)
    KINDS.mkdir(exist_ok=True)
    for name, text in kind_pages().items():
        (KINDS / name).write_text(text, encoding="utf-8")
    for name, page in PAGES.items():
        (HERE / name).write_text(page(), encoding="utf-8")
        sys.stdout.write(f"wrote {HERE / name}\n")
