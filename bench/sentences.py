"""python -m bench.sentences: fifty varied findings with their words (docs/sentences.md), and the summary of the demo in
three lengths and four languages (docs/summaries.md), for a person to read."""

from __future__ import annotations

import tempfile
from pathlib import Path

import golden_almanac as ga

ASKED: list[dict[str, object]] = [
    {},
    {"measures": ["avg(delay_min)", "avg(on_time)", "avg(cancelled)"]},
    {"measures": ["sum(revenue) / sum(passengers)", "count(*)"]},
    {"measures": ["sum(passengers)"], "where": "region = 'Outer Isles'"},
    {"measures": ["sum(fuel_cost)"], "by": ["vessel", "route"]},
    {"grain": "quarter", "measures": ["sum(revenue)", "avg(on_time)"]},
    {"grain": "week", "measures": ["sum(vehicles)"]},
]


def main() -> None:
    folder = Path(tempfile.mkdtemp(prefix="almanac-bench-"))
    table = ga.read(ga.write_demo(folder))
    lines = ["# Fifty sentences", "", "As scans of the demo make them (`python -m bench.sentences`), kind by kind.", ""]
    told: dict[str, list[tuple[str, str]]] = {}
    seen = set()
    for asked in ASKED:
        found = ga.scan(table, **asked)  # type: ignore[arg-type]
        for one in (*found.findings, *found.folded):
            if one.headline not in seen:
                seen.add(one.headline)
                told.setdefault(one.kind, []).append((one.headline, one.detail))
    left = 50
    while left and any(told.values()):
        for kind in sorted(told):
            if told[kind] and left:
                headline, detail = told[kind].pop(0)
                lines += [f"- **{kind}.** {headline} {detail}".replace("$", "\\$")]
                left -= 1
    Path("docs/sentences.md").write_text("\n".join(lines) + "\n", encoding="utf-8")
    summaries(ga.scan(table))
    print(f"{50 - left} sentences")


def summaries(scan: ga.Scan) -> None:
    """The demo's summary in every length and language."""
    lines = [
        "# The demo's summary",
        "",
        "In three lengths and four languages, as `python -m bench.sentences` writes it.",
        "",
    ]
    for locale, language in (("en", "English"), ("de", "Deutsch"), ("es", "Español"), ("fr", "Français")):
        told = scan.in_language(locale)
        for length in ("short", "standard", "long"):
            made = told.summary(length)
            lines += [f"## {language}, {length}", "", f"**{made.headline}**", "", made.text, ""]
    Path("docs/summaries.md").write_text("\n".join(lines), encoding="utf-8")


if __name__ == "__main__":
    main()
