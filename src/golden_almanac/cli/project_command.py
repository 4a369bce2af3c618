"""`golden-almanac project`: stated assumptions worked out, side by side."""

from __future__ import annotations

from typing import Annotated

import typer

from . import screen, shared_options

HELP = """Work out what stated assumptions come to, side by side: arithmetic, and no forecast.

\b
Examples:
  golden-almanac project --start 10000 --rate 2 --rate 4 --steps 10
  golden-almanac project --start 0 --payment 200 --rate 3 --cost 0.5 --tax 25 --steps 120 --grain month
  golden-almanac project scenarios.toml --steps 15 -o ferries.html
"""


def project(
    file: Annotated[
        str | None, typer.Argument(metavar="[FILE]", show_default=False, help="A TOML file with [[scenario]] tables.")
    ] = None,
    start: Annotated[float, typer.Option("--start", metavar="AMOUNT", help="What it begins with.")] = 0.0,
    rate: Annotated[
        list[float] | None,
        typer.Option("--rate", metavar="PERCENT", show_default=False, help="Growth a year. A scenario for each."),
    ] = None,
    payment: Annotated[
        float, typer.Option("--payment", metavar="AMOUNT", help="Paid in at the end of each step.")
    ] = 0.0,
    payment_growth: Annotated[
        float, typer.Option("--payment-growth", metavar="PERCENT", help="Growth of the payments a year.")
    ] = 0.0,
    lump: Annotated[
        list[str] | None,
        typer.Option("--lump", metavar="STEP=AMOUNT", show_default=False, help="A sum at the end of a step."),
    ] = None,
    cost: Annotated[float, typer.Option("--cost", metavar="PERCENT", help="Costs a year, of the amount.")] = 0.0,
    fee: Annotated[float, typer.Option("--fee", metavar="AMOUNT", help="Taken at the end of each step.")] = 0.0,
    tax: Annotated[float, typer.Option("--tax", metavar="PERCENT", help="Of what grew beyond the costs.")] = 0.0,
    steps: Annotated[int, typer.Option("--steps", metavar="N", help="How many steps.")] = 10,
    grain: Annotated[str, typer.Option("-g", "--grain", metavar="GRAIN", help="year or month.")] = "year",
    locale: Annotated[
        str | None, typer.Option("--locale", metavar="LOCALE", show_default=False, help="en, de, es, fr.")
    ] = None,
    replace: Annotated[bool, typer.Option("--replace", help="Overwrite files that are there.")] = False,
    as_json: shared_options.AsJson = False,
    out: shared_options.Out = None,
) -> None:
    import golden_almanac as ga

    targets = shared_options.check_outputs(out, file or "", replace=replace)
    lumps = dict(map(_lump, lump or ()))
    listed: object = file
    if file is None:
        listed = [
            {
                "name": f"{one:g}%",
                "start": start,
                "rate": one,
                "payment": payment,
                "payment_growth": payment_growth,
                "lumps": lumps,
                "cost": cost,
                "fee": fee,
                "tax": tax,
            }
            for one in rate or (0.0,)
        ]
    found = ga.scenarios(listed, steps, grain=grain, locale=locale)  # type: ignore[arg-type]
    if targets:
        shared_options.write_outputs(found.report(), targets, replace=replace)
    screen.json_out(found.to_dict()) if as_json else screen.result(found, found.tables())


def _lump(text: str) -> tuple[int, float]:
    import golden_almanac as ga

    step, _, amount = text.partition("=")
    try:
        return int(step), float(amount)
    except ValueError:
        raise ga.RequestError("A lump sum", text, "a step and an amount, as in 5=20000") from None
