"""A brief over four months: a month restated, a sentence edited, a figure corrected, an alert; all verified."""

from __future__ import annotations

import sys
from pathlib import Path

import pandas as pd

import golden_almanac as ga

BRIEF = """title = "Pellow Sound Ferries, monthly"
source = "sailings.csv"
rows = "sailings"
measures = ["sum(revenue)", "avg(cancelled)"]
formats = ["html", "xlsx"]

[[alert]]
name = "More than one sailing in twenty cancelled"
when = "avg(cancelled) > 0.05"
"""
EDITED = "Revenue in {{ revenue.period }} was {{ revenue.value | amount }}, after the new fares."
CORRECTED = "> Correction by Ana: 719,000 → 716,000, because a fare was booked twice."


def edit(words: Path) -> None:
    """What a person does: another sentence, and a figure corrected with its reason."""
    lines = words.read_text(encoding="utf-8").splitlines()
    place = lines.index("<!-- section series -->") + 1
    lines[place : place + 1] = [f"## {EDITED}", CORRECTED]
    words.write_text("\n".join(lines) + "\n", encoding="utf-8")


def main(source: str, out: str) -> None:
    home = Path(out) / "four-months"
    home.mkdir(parents=True, exist_ok=True)
    brief = home / "monthly.toml"
    brief.write_text(BRIEF, encoding="utf-8")
    rows = pd.read_csv(source)[["date", "route", "channel", "revenue", "cancelled"]]
    for month in pd.period_range("2025-01", "2025-04", freq="M"):
        if str(month) == "2025-04":
            # The books of January are opened again: a fare was booked twice.
            late = rows["date"].str.startswith("2025-01") & (rows["route"] == "Tern Rock")
            rows.loc[late, "revenue"] = (rows.loc[late, "revenue"] * 0.98).round(2)
        rows[rows["date"] <= str(month.end_time.date())].to_csv(home / "sailings.csv", index=False)
        edition = ga.publish_brief(brief)
        if str(month) == "2025-01":
            edit(edition.folder / "words.md")
            edition = ga.publish_brief(brief)
        found = ga.verify(edition)
        size, agree = found.counted()
        print(f"{edition.name}: {edition.headline}\n  {agree:,} of {size:,} figures agree")
        for text in (*edition.alerts, *edition.notices, *found.differences):
            print(f"  {text}")
    print(ga.editions(brief)[["edition", "alerts"]].to_string(index=False))


if __name__ == "__main__":
    main(*(sys.argv[1:] if len(sys.argv) > 2 else ("almanac-demo/sailings.csv", "almanac-demo")))
