"""What the terminal shows: headline, summary, findings with a score bar and a spark line."""

from __future__ import annotations

import sys
from typing import Any

import typer

#: Columns used at most; the text must be readable without colour too.
_WIDTH = 100
_BLOCKS = "▁▂▃▄▅▆▇█"


def json_bytes(value: dict[str, Any]) -> bytes:
    """JSON as every command writes it."""
    import json

    return (json.dumps(value, ensure_ascii=False, indent=1, allow_nan=False) + "\n").encode("utf-8")


def json_out(value: dict[str, Any]) -> None:
    """JSON on standard output, and nothing else there."""
    sys.stdout.buffer.write(json_bytes(value))
    sys.stdout.buffer.flush()


def links(found: Any) -> None:
    """Several tables and the keys between them."""
    from rich.padding import Padding
    from rich.text import Text

    console = terminal()
    keys = {0: "no key", 1: "1 key"}.get(len(found.links), f"{len(found.links)} keys")
    console.print(Text(f"{len(found)} tables, {keys} between them", style="bold"))
    for name, table in found.items():
        console.print(Padding(Text(f"{name}: {table.rows:,} rows, {len(table.columns)} columns"), (0, 0, 0, 2)))
    for text in found.sentences():
        console.print(bullet(text))


def scan(found: Any, top: int, *, everything: bool = False, length: str = "standard") -> None:
    """A scan: summary, then the first findings; or all, with those folded under them and the reason."""
    console = terminal()
    opening(console, found.summary(length))
    if not found.findings:
        return
    wanted = found.suggestions(3)
    if wanted:
        console.print()
        console.print("What to do next", style="bold")
    for one in wanted:
        console.print(bullet(one.text))
    shown = found.findings if everything else found.findings[:top]
    console.print()
    for place, one in enumerate(shown, start=1):
        _finding(console, place, one)
        if everything:
            _folded(console, [other for other in found.folded if other.folded_under[0] == one.id])
    if everything:
        return
    left = len(found.findings) - len(shown)
    folded = len(found.folded)
    more = [f"{left} more with --top {len(found.findings)}"] if left else []
    more += [f"{folded} folded under these, with --all"] if folded else []
    if more:
        console.print("    " + "; ".join(more) + ".", style="dim", highlight=False)


def readiness(found: Any) -> None:
    """A table's readiness: the verdict, then questions, repairs and notes, each with its rows."""
    from rich.padding import Padding
    from rich.text import Text

    console = terminal()
    console.print(Text(found.headline(), style="bold"))
    titles = {
        "blocker": "Must be mended first",
        "question": "Awaiting your answer",
        "repair": "Mended",
        "note": "Good to know",
    }
    for severity, title in titles.items():
        problems = [one for one in found.problems if one.severity == severity]
        if not problems:
            continue
        console.print()
        console.print(Text(f"{title} ({len(problems)})", style="bold"))
        for one in problems:
            console.print(bullet(one.message))
            if one.question is not None and one.question.text not in one.message:
                console.print(Padding(Text(one.question.text), (0, 0, 0, 4)))
            if one.question is not None and one.question.option is not None:
                console.print(Padding(Text(_answer(one.question), style="#A86A00"), (0, 0, 0, 4)))
            if one.examples:
                shown = "; ".join(
                    f"row {row:,}: {str(value).replace(chr(10), ' ')[:60]}" for row, value in one.examples
                )
                console.print(Padding(Text(shown, style="dim"), (0, 0, 0, 4)))
    table = found.table
    console.print()
    aside = f", {len(table.aside):,} of the file set aside" if table.aside else ""
    console.print(Text(f"Columns ({table.rows:,} rows kept{aside})", style="bold"))
    key = found.one_row_per()
    if key is not None:
        console.print(
            Padding(Text(f"One row per {', '.join(key[:-1]) + ' and ' if key[:-1] else ''}{key[-1]}."), (0, 0, 0, 2))
        )
    for column in table.columns:
        adds = {True: ", summed", False: ", averaged", None: ""}[column.adds_up]
        unit = f" ({column.unit})" if column.unit else ""
        missing = f", {column.missing:,} missing" if column.missing else ""
        role = f"{column.role.value}{adds}{unit}"
        text = f"{column.name[:30]:<31}{role}; {column.type}, {column.distinct:,} distinct{missing}"
        console.print(Padding(Text(text), (0, 0, 0, 2)))


def bullet(text: str) -> Any:
    """A point whose further lines stand below its first word."""
    from rich.table import Table
    from rich.text import Text

    grid = Table.grid()
    grid.add_column(width=4)
    grid.add_column()
    grid.add_row("  · ", Text(text))
    return grid


def _answer(question: Any) -> str:
    """The option that answers a question, with the other choices."""
    others = ", ".join(f'"{choice}"' for choice in question.choices[1:])
    return f"Answer with  {question.option}" + (f"  (or {others})" if others else "")


def frame(answer: Any, as_json: bool) -> None:
    """The answer of a query: a plain table, or JSON records."""
    import json

    if as_json:
        json_out(
            {"format": "golden-almanac/rows/1", "rows": json.loads(answer.to_json(orient="records", date_format="iso"))}
        )
    else:
        typer.echo(answer.to_string(index=False))


def change(found: Any, top: int, length: str = "standard") -> None:
    """A change: summary, then the contributions of each dimension."""
    from rich.table import Table
    from rich.text import Text

    console = terminal()
    opening(console, found.summary(length))
    one = found.explanation
    frame = found.to_frame()
    for breakdown in one.breakdowns:
        rows = frame[frame["by"] == breakdown.by]
        table = Table(
            box=None,
            pad_edge=False,
            title=Text(f"\nBy {breakdown.by}{_gross(breakdown, one)}"),
            title_justify="left",
            title_style="bold",
            header_style="dim",
        )
        names = [breakdown.by, "baseline", "value", "contribution", "share of change"]
        names += [] if one.measure.additive else ["rate", "mix"]
        for index, name in enumerate(names):
            table.add_column(Text(name), justify="right" if index else "left", overflow="ellipsis", max_width=34)
        for _, row in rows.head(top).iterrows():
            cells = [
                "(no value)" if row["label"] is None else str(row["label"]),
                figure(row["baseline"], one),
                figure(row["value"], one),
                _signed(row["change"], one),
                percent(row["share_of_change"]),
            ]
            cells += [] if one.measure.additive else [_signed(row["rate"], one), _signed(row["mix"], one)]
            table.add_row(*(Text(cell) for cell in cells))
        rest = rows.iloc[top:]
        if len(rest):
            tail = [
                f"other ({len(rest)})",
                "",
                "",
                _signed(rest["change"].sum(), one),
                percent(rest["share_of_change"].sum()),
            ]
            tail += [] if one.measure.additive else [_signed(rest["rate"].sum(), one), _signed(rest["mix"].sum(), one)]
            table.add_row(*(Text(cell) for cell in tail))
        console.print(table)
    if found.caveats():
        console.print()
        for text in found.caveats():
            console.print(Text(text, style="dim"))


def changes(found: Any) -> None:
    """Several changes: the story, then a line each with what is usual and what explains it."""
    from rich.padding import Padding
    from rich.table import Table
    from rich.text import Text

    console = terminal()
    opening(console, found.summary())
    table = Table(box=None, pad_edge=False, header_style="dim", title=Text("\nEach change"), title_justify="left")
    table.title_style = "bold"
    several = len({change.explanation.baseline.start for change in found.changes}) > 1
    names = ["measure", *(["baseline"] if several else []), "before", "value", "change", "usual from", "to", "verdict"]
    for name in names:
        left = name in ("measure", "baseline", "verdict")
        table.add_column(Text(name), justify="left" if left else "right", overflow="ellipsis", max_width=24)
    for change in found.changes:
        one = change.explanation
        usual = one.usual
        span = ["–", "–"] if usual is None else [_signed(usual.low, one), _signed(usual.high, one)]
        cells = [one.measure.name, *([str(one.baseline.start)] if several else []), figure(one.before, one)]
        cells += [figure(one.value, one), _signed(one.change, one), *span, one.verdict]
        table.add_row(*(Text(cell) for cell in cells))
    console.print(table)
    for change in found.changes:
        console.print()
        console.print(Text(change.headline, style="bold"))
        console.print(Padding(Text(change.summary().text), (0, 0, 0, 2)))
    if found.caveats():
        console.print()
        for text in found.caveats():
            console.print(Text(text, style="dim"))


def grid(console: Any, title: str, names: list[str], rows: list[list[str]], left: int = 1) -> None:
    """A plain table under a bold title; the first `left` columns are text, the others figures."""
    from rich.table import Table
    from rich.text import Text

    table = Table(box=None, pad_edge=False, header_style="dim", title=Text(f"\n{title}"), title_justify="left")
    table.title_style = "bold"
    for place, name in enumerate(names):
        table.add_column(
            Text(name),
            justify="left" if place < left else "right",
            overflow="ellipsis" if place >= left else "fold",
            max_width=46 if left < 2 else 72,
            no_wrap=place >= left,
        )
    for row in rows:
        table.add_row(*(Text(cell) for cell in row))
    console.print(table)


def told(console: Any, sentences: list[str]) -> None:
    """Caveats, dim, a line each, after a blank one."""
    from rich.text import Text

    if sentences:
        console.print()
    for text in sentences:
        console.print(Text(text, style="dim"))


def terminal() -> Any:
    from rich.console import Console

    console = Console(highlight=False, soft_wrap=False)
    if console.width > _WIDTH or not console.is_terminal:
        console = Console(highlight=False, width=_WIDTH)
    return console


def opening(console: Any, summary: Any) -> None:
    from rich.text import Text

    console.print(Text(summary.headline, style="bold"))
    if summary.text:
        console.print(Text(summary.text))


def _finding(console: Any, place: int, one: Any) -> None:
    from rich.padding import Padding
    from rich.text import Text

    bar = "█" * round(10 * one.score.total)
    head = Text()
    head.append(f"{place:>2}  ")
    head.append(bar, style="#A86A00")
    head.append("░" * (10 - len(bar)), style="dim")
    head.append(f" {one.score.total:.2f}  {one.kind:<13} ")
    head.append(_spark(one), style="dim")
    console.print(head)
    console.print(Padding(Text(one.headline, style="bold"), (0, 0, 0, 4)))
    verdict = {True: " That is for the better.", False: " That is for the worse.", None: ""}[one.good]
    console.print(Padding(Text(one.detail + verdict), (0, 0, int(not one.notes), 4)))
    for place, note in enumerate(one.notes, start=1):
        last = place == len(one.notes)
        console.print(Padding(Text(f"Known of that time: {note}", style="italic"), (0, 0, int(last), 4)))


def _folded(console: Any, findings: list[Any]) -> None:
    """What follows from a finding, a line each."""
    from rich.padding import Padding
    from rich.text import Text

    for place, one in enumerate(findings, start=1):
        line = Text(f"· {one.headline} ", style="dim")
        line.append(f"({one.folded_under[1]})")
        console.print(Padding(line, (0, 0, int(place == len(findings)), 6)))


def _spark(one: Any) -> str:
    values = one.candidate.series.get("own")
    if values is None or len(values) < 3:
        return ""
    values = [float(value) for value in values][-48:]
    low, high = min(values), max(values)
    spread = (high - low) or 1.0
    return "".join(_BLOCKS[min(7, int(8 * (value - low) / spread))] for value in values)


def figure(value: Any, one: Any) -> str:
    from golden_almanac import format_amount

    return "–" if value is None or value != value else format_amount(float(value), one.measure)


def _signed(value: Any, one: Any) -> str:
    from golden_almanac import format_difference

    return "–" if value is None or value != value else format_difference(float(value), one.measure)


def _gross(breakdown: Any, one: Any) -> str:
    """What went up and what went down, where both did."""
    up, down = breakdown.gross
    return f" (up {_signed(up, one)}, down {_signed(down, one)})" if up and down else ""


def percent(value: Any) -> str:
    return "–" if value is None or value != value else f"{100 * value:.0f}%".replace("-", "−")
