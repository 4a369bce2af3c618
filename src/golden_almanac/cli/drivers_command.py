"""`golden-almanac drivers`: what goes with an outcome."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

import typer

from . import screen, shared_options, streams
from .source_options import Opening, reads

HELP = """Find what goes with an outcome: effects all else equal, cut points, and slices that stand out.

\b
Examples:
  golden-almanac drivers sailings.csv --outcome delay_min
  golden-almanac drivers sailings.csv --outcome on_time --factor vessel --factor route --factor passengers
  golden-almanac drivers sailings.csv --outcome delay_min --toward higher -w "region = 'Outer Isles'"
  golden-almanac drivers sailings.csv --outcome on_time --factor route --model tree --keep-model late.json
  golden-almanac drivers sailings.csv --score late.json -o scores.csv
  golden-almanac drivers sailings.csv --outcome "sum(revenue) / sum(passengers)" -o drivers.html
"""


@reads
def drivers(
    opening: Opening,
    outcome: Annotated[
        str | None,
        typer.Option(
            "--outcome",
            metavar="COLUMN",
            show_default=False,
            help="A number, a yes/no column, a rate, or an expression.",
        ),
    ] = None,
    factor: Annotated[
        list[str] | None,
        typer.Option(
            "--factor", metavar="COLUMN", show_default=False, help="A column that may go with it. May be repeated."
        ),
    ] = None,
    event: Annotated[
        str | None,
        typer.Option(
            "--event", metavar="LABEL", show_default=False, help="The label of the outcome that counts as yes."
        ),
    ] = None,
    toward: Annotated[
        str, typer.Option("--toward", metavar="WAY", help="higher or lower: one direction of interest.")
    ] = "both",
    where: shared_options.Where = None,
    model: Annotated[
        str | None,
        typer.Option(
            "--model", metavar="KIND", show_default=False, help="Also model the outcome: best, linear, tree or boosted."
        ),
    ] = None,
    metric: Annotated[
        str | None,
        typer.Option(
            "--metric",
            metavar="NAME",
            show_default=False,
            help="What a model is judged by: auc, accuracy, brier, log_loss; mae, rmse.",
        ),
    ] = None,
    keep: Annotated[
        str | None,
        typer.Option("--keep-model", metavar="FILE", show_default=False, help="Keep the model as .json for scoring."),
    ] = None,
    score: Annotated[
        str | None,
        typer.Option(
            "--score",
            metavar="MODEL",
            show_default=False,
            help="Score the rows with a model that was kept; with --out, a .csv.",
        ),
    ] = None,
    top: Annotated[int, typer.Option("-n", "--top", min=1, help="Factors to show.")] = 10,
    as_json: shared_options.AsJson = False,
    out: shared_options.Out = None,
) -> None:
    import golden_almanac as ga

    from ..export.files import check_target

    targets = shared_options.check_outputs(out, opening.source, replace=opening.replace)
    kept = None if keep is None else Path(keep)
    if kept is not None:
        check_target(kept, opening.source, (".json",), replace=opening.replace)
    if score is not None:
        told = {"--model": model, "--keep-model": keep, "--outcome": outcome, "--factor": factor, "--metric": metric}
        shared_options.refuse_together({"--score": score, **told})
    if metric is not None and model is None and keep is None:
        raise ga.RequestError("--metric", metric, "left out where no model is asked for (--model, --keep-model)")
    show = shared_options.progress()
    if score is not None:
        _score(opening, score, where, targets, as_json)
        return
    if outcome is None:
        raise ga.RequestError("The outcome", "nothing", "a column, named with --outcome")
    table = opening.table(show)
    found: Any
    if model is not None or kept is not None:
        found = ga.model_outcome(
            table, outcome, factor, kind=model or "best", metric=metric, event=event, where=where, progress=show
        )
    else:
        found = ga.find_drivers(table, outcome, factor, event=event, toward=toward, where=where, progress=show)
    shared_options.clear_progress()
    report = found.report() if targets else None
    if kept is not None:
        found.save(kept)
        streams.tell(f"wrote {kept}")
    if report is not None:
        shared_options.write_outputs(report, targets, replace=opening.replace)
    if as_json:
        screen.json_out(found.to_dict())
    elif model is not None or kept is not None:
        screen.result(found, found.tables())
    else:
        screen.result(found, found.tables(top))


def _score(opening: Opening, model: str, where: str | None, targets: list[Path], as_json: bool) -> None:
    """The rows' predictions: to a file where one is named, else to the screen."""
    import golden_almanac as ga

    from ..export.data_files import frame_bytes
    from ..export.files import check_target, write_whole

    for target in targets:
        check_target(target, opening.source, (".csv",), replace=opening.replace)
    known = ga.load_model(model)
    table = opening.table()
    scored = known.predict(table if where is None else table.filter(where)).reset_index()
    if targets:
        for target in targets:
            write_whole(target, frame_bytes(scored), replace=opening.replace)
            streams.tell(f"wrote {target}: {len(scored):,} rows")
    else:
        screen.frame(scored, as_json)
