"""Publish one page for each region."""

from __future__ import annotations

import sys
from pathlib import Path

import golden_almanac as ga


def main(source: str, folder: str) -> None:
    for region in ("Inner Sound", "North Skerries", "Outer Isles"):
        scan = ga.scan(
            source,
            measures=["sum(revenue)", "avg(delay_min)"],
            by=["route", "fare_class"],
            where=f"region = '{region}'",
        )
        target = Path(folder) / f"{region.lower().replace(' ', '-')}.html"
        scan.report(title=region).write(target)
        print(f"{target}: {scan.summary().headline}")


if __name__ == "__main__":
    arguments = [*sys.argv[1:], "almanac-demo/sailings.csv", "almanac-demo"]
    main(arguments[0], arguments[1] if len(sys.argv) > 2 else "almanac-demo")
