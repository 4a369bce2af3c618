"""Lines and tables on a terminal: no wider than the page, plain without colour, nothing cut that is words."""

from __future__ import annotations

import io

import pytest
from rich.console import Console
from rich.style import Style

from golden_almanac.cli import screen
from golden_almanac.text.lines.line_pieces import BLANK, Line, bullet, line
from golden_almanac.text.text_tables import TextTable


def shown(draw: object, *, colour: bool = False, width: int = 60) -> str:
    file = io.StringIO()
    console = Console(file=file, width=width, force_terminal=colour, color_system="truecolor" if colour else None)
    assert callable(draw)
    draw(console)
    return file.getvalue()


def test_lines_are_indented_and_wrap_below_their_first_word() -> None:
    long = " ".join(["word"] * 30)
    text = shown(
        lambda console: screen.show(console, [line("Head", "bold"), BLANK, line(long, indent=4), bullet(long)])
    )
    rows = text.splitlines()
    assert rows[0].strip() == "Head"
    assert rows[1].strip() == ""
    assert all(row.startswith(("    ", "  · ")) for row in rows[2:])
    points = [row for row in rows if "·" in row]
    assert len(points) == 1
    assert points[0].startswith("  · word")
    assert all(len(row) <= 60 for row in rows)


def test_pieces_have_looks_and_none_without_colour() -> None:
    # The drawing library keeps a look as it was first drawn in this process, in whatever depth of colour that was.
    for kept in (Style.parse, Style._add):
        kept.cache_clear()
    one = Line((("█", "accent"), ("░", "dim"), (" plain", "")), 2)
    assert "\x1b[" not in shown(lambda console: screen.show(console, [one]))
    coloured = shown(lambda console: screen.show(console, [one]), colour=True)
    assert "\x1b[38;2;168;106;0m█" in coloured
    assert str(one) == "  █░ plain"


def test_names_with_brackets_are_no_markup() -> None:
    text = shown(lambda console: screen.show(console, [line("[bold]x[/bold] [red]", indent=1)]))
    assert "[bold]x[/bold] [red]" in text
    table = TextTable(title="[b]T[/b]", heads=("[i]h[/i]", "n"), rows=(("[red]", "1"),))
    assert all(
        part in shown(lambda console: screen.table(console, table)) for part in ("[b]T[/b]", "[i]h[/i]", "[red]")
    )


@pytest.mark.parametrize("left", [1, 2])
def test_a_table_keeps_its_figures_on_one_line(left: int) -> None:
    table = TextTable(
        title="Contributions",
        heads=("route", "why", "value"),
        rows=(("Outer Bar", "because " * 8, "1,234,000"), ("b", "short", "5")),
        total=("Total", "", "1,234,005"),
        left=left,
    )
    text = shown(lambda console: screen.table(console, table), width=80)
    rows = text.splitlines()
    assert rows[1].strip() == "Contributions"
    assert rows[-1].split() == ["Total", "1,234,005"]
    assert all(len(row) <= 80 for row in rows)
    assert sum("1,234,000" in row for row in rows) == 1
    # Words fold, figures stand at the right.
    assert rows[-1].rstrip().endswith("1,234,005")
    # Nothing is cut.
    assert text.count("because") == 8


def test_caveats_stand_apart_and_none_leave_no_blank_line() -> None:
    assert shown(lambda console: screen.told(console, [])) == ""
    assert shown(lambda console: screen.told(console, ["One.", "Two."])).split("\n")[:3] == ["", "One.", "Two."]


@pytest.mark.parametrize("width", range(24, 48))
def test_a_number_and_its_sign_stay_on_one_line(width: int) -> None:
    said = "Los ingresos variaron +4,6\u00a0% en 12\u00a0000\u00a0filas, y 1,24\u00a0millones en total, como antes."
    text = shown(lambda console: screen.show(console, [line(said, indent=2)]), width=width)
    assert all(part in text for part in ("+4,6\u00a0%", "12\u00a0000\u00a0filas", "1,24\u00a0millones"))
    assert " ".join(text.split(" ")).replace("\n", " ").split() == said.split()
