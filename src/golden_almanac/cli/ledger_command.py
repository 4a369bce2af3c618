"""`golden-almanac ledger`: the accounts of a ledger, reviewed."""

from __future__ import annotations

from typing import Annotated

import typer

from . import screen, shared_options
from .source_options import Opening, reads

HELP = """Review accounts month by month: what wants a question, and how the margin moved.

\b
Examples:
  golden-almanac ledger ledger.csv --account account --amount amount --period day
  golden-almanac ledger ledger.csv --account account --base "4000 Fare revenue" --floor 5000 -o ledger.html
"""


def _column(flag: str, text: str) -> typer.models.OptionInfo:
    return typer.Option(flag, metavar="COLUMN", show_default=False, help=text)  # type: ignore[no-any-return]


def _share(option: str, text: str) -> float:
    """A share as people write one: 2%, or 0.02."""
    return shared_options.number(option, text[:-1]) / 100 if text.endswith("%") else shared_options.number(option, text)


@reads
def ledger(
    opening: Opening,
    account: Annotated[str, typer.Option("--account", metavar="COLUMN", help="The accounts.")],
    amount: Annotated[str | None, _column("--amount", "Amounts with their sign.")] = None,
    period: Annotated[str | None, _column("--period", "Dates or periods of postings.")] = None,
    debit: Annotated[str | None, _column("--debit", "Debits, in place of --amount.")] = None,
    credit: Annotated[str | None, _column("--credit", "Credits, beside --debit.")] = None,
    entry: Annotated[str | None, _column("--entry", "Entries whose debits equal their credits.")] = None,
    base: Annotated[
        list[str] | None,
        typer.Option("--base", metavar="ACCOUNT", show_default=False, help="What amounts are weighed against."),
    ] = None,
    major: Annotated[str, typer.Option("--major", metavar="SHARE", help="Major from this share of the base.")] = "2%",
    minor: Annotated[str, typer.Option("--minor", metavar="SHARE", help="Minor from this share on.")] = "0.5%",
    floor: Annotated[float, typer.Option("--floor", metavar="AMOUNT", help="Nothing below is told.")] = 0.0,
    since: Annotated[
        str | None, typer.Option("--since", metavar="PERIOD", show_default=False, help="Ask about this on, only.")
    ] = None,
    bridge: Annotated[
        str | None, typer.Option("--bridge", metavar="SPAN", show_default=False, help='Margin of "2025", against')
    ] = None,
    baseline: Annotated[
        str | None, typer.Option("--baseline", metavar="SPAN", show_default=False, help='that of "2024".')
    ] = None,
    notes: shared_options.Notes = None,
    grain: shared_options.Grain = None,
    where: shared_options.Where = None,
    as_json: shared_options.AsJson = False,
    out: shared_options.Out = None,
) -> None:
    import golden_almanac as ga

    targets = shared_options.check_outputs(out, opening.source, replace=opening.replace)
    shares = _share("--major", major), _share("--minor", minor)
    known = None if notes is None else ga.read_notes(notes)
    table = opening.table(shared_options.progress())
    found = ga.review_ledger(
        table, account, amount, period, debit=debit, credit=credit, entry=entry, base=base, major=shares[0],
        minor=shares[1], floor=floor, since=since, bridge=bridge, baseline=baseline, notes=known, grain=grain,
        where=where,
    )  # fmt: skip
    shared_options.clear_progress()
    if targets:
        shared_options.write_outputs(found.report(), targets, replace=opening.replace)
    screen.json_out(found.to_dict()) if as_json else screen.result(found, found.tables())
