"""`golden-almanac check`: is the table fit to report from?"""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

import typer

from . import outcome_output, screen, shared_options, streams
from .source_options import Opening, reads

HELP = """Say whether a table is fit to report from: what was mended, what awaits an answer.

\b
Examples:
  golden-almanac check sailings.csv
  golden-almanac check harbour-office.xlsx --sheet "Quay dues"
  golden-almanac check harbour-office.xlsx --answer "labels alike/Quay=merge" --fix moorings.csv
  golden-almanac check harbour-office.xlsx --repairs log.json --aside set-aside.csv
  golden-almanac check harbour-office.xlsx --links
  golden-almanac check sailings.csv --questions
  golden-almanac check sailings.csv --sql "SELECT route, sum(revenue) FROM source GROUP BY 1"
"""


Sql = Annotated[
    str | None,
    typer.Option("--sql", metavar="SELECT", show_default=False, help="Run one SELECT over the table, named source."),
]
Fix = Annotated[
    str | None,
    typer.Option("--fix", metavar="FILE", show_default=False, help="Write the repaired table (.csv, .parquet)."),
]
Repairs = Annotated[
    str | None,
    typer.Option("--repairs", metavar="FILE", show_default=False, help="Write the repairs (.json) for --apply."),
]
Aside = Annotated[
    str | None,
    typer.Option("--aside", metavar="FILE", show_default=False, help="Write the rows that were set aside (.csv)."),
]
Ask = Annotated[
    bool, typer.Option("--questions", help="List questions worth asking of the table, each as a command that runs.")
]
Links = Annotated[bool, typer.Option("--links", help="Show the tables of the source and the keys between them.")]


@reads
def check(
    opening: Opening,
    sql: Sql = None,
    fix: Fix = None,
    repairs: Repairs = None,
    aside: Aside = None,
    links: Links = False,
    questions: Ask = False,
    as_json: shared_options.AsJson = False,
) -> None:
    import golden_almanac as ga

    from ..api.join import links_lines
    from ..export.files import check_target, refuse_to_overwrite, write_all

    ways = {"--sql": sql, "--links": links, "--questions": questions}
    shared_options.refuse_together(ways)
    shared_options.refuse_together({**ways, "--fix, --repairs and --aside": fix or repairs or aside})
    endings = {"fix": (".csv", ".parquet"), "repairs": (".json",), "aside": (".csv",)}
    wanted = {"fix": fix, "repairs": repairs, "aside": aside}
    targets = {name: Path(value) for name, value in wanted.items() if value is not None}
    for name, target in targets.items():
        check_target(target, opening.source, endings[name], replace=opening.replace)
    if links:
        tables = ga.read_all(opening.source)
        screen.json_out(tables.to_dict()) if as_json else screen.show(screen.terminal(), links_lines(tables))
        return
    table = opening.table(shared_options.progress(), hold=sql is None)
    shared_options.clear_progress()
    if questions:
        plain = ga.Conversation(table=table).first_questions(findings=_findings(table))
        outcome_output.questions(ga.questions(table), plain, as_json)
        return
    if sql is not None:
        screen.frame(table.sql(sql), as_json)
        return
    made = {name: _content(name, table, target.suffix) for name, target in targets.items()}
    for name, (content, _) in made.items():
        if not opening.replace:
            refuse_to_overwrite(targets[name], content)
    found = ga.check(table)
    write_all([(targets[name], content) for name, (content, _) in made.items()])
    for name, (_, said) in made.items():
        streams.tell(f"wrote {targets[name]}: {said}")
    if as_json:
        screen.json_out(found.to_dict())
    else:
        screen.show(screen.terminal(), found.lines())


def _content(name: str, table: Any, ending: str) -> tuple[bytes, str]:
    """What a file of this option holds, and how much that is."""
    from ..export.data_files import aside_bytes, json_bytes, table_bytes

    if name == "fix":
        return table_bytes(table, ending), _many(table.rows, "row")
    if name == "aside":
        return aside_bytes(table), _many(len(table.aside), "row")
    return json_bytes(table.repair_log()), _many(len(table.repairs), "repair")


def _many(count: int, word: str) -> str:
    return f"{count:,} {word}{'' if count == 1 else 's'}"


def _findings(table: Any) -> Any:
    """What a scan tells, best first; nothing of a table that cannot be scanned."""
    import golden_almanac as ga

    try:
        return ga.scan(table).findings
    except ga.AlmanacError:
        return ()
