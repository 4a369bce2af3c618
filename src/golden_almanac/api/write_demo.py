"""`ga.write_demo`: the made-up ferry company's data, written to a folder."""

from __future__ import annotations

import os
from importlib.resources import files
from pathlib import Path

from ..export.files import write_whole


def write_demo(folder: str | os.PathLike[str]) -> Path:
    """Write the made-up company's files: sailings.csv, trips.csv, ledger.csv, own.csv, operators.csv,
    stories.toml, notes.csv and harbour-office.xlsx.

    Parameters
    ----------
    folder
        Where; made if it is missing.

    Returns
    -------
    Path
        That of the sailings. `stories.toml` says what is planted in them; the workbook has every disease.

    Raises
    ------
    OutputError
        The folder cannot be written to.
    """
    from ..demo import account_books, harbour_workbook, operators, sailings_csv, season_passes

    root = Path(folder)
    write_whole(root / "sailings.csv", sailings_csv())
    write_whole(root / "trips.csv", season_passes.trips_csv())
    write_whole(root / "ledger.csv", account_books.ledger_csv())
    write_whole(root / "own.csv", operators.own_csv())
    write_whole(root / "operators.csv", operators.operators_csv())
    for name in ("stories.toml", "notes.csv"):
        write_whole(root / name, files("golden_almanac.demo").joinpath(name).read_bytes())
    write_whole(root / "harbour-office.xlsx", harbour_workbook.workbook())
    return root / "sailings.csv"
