"""python -m bench.speed.publishing [--runs N]: all formats of the demo's report against drawing its charts once.

One process, in turn. The charts are drawn anew as PNG, with plain Matplotlib, from figures already made; ratios count.
"""

from __future__ import annotations

import argparse
import io
import statistics
import tempfile
import time
from pathlib import Path

import golden_almanac as ga
from golden_almanac.charts import draw

FORMATS = ("html", "pdf", "pptx", "docx", "xlsx", "md", "eml", "json", "csv")


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--runs", type=int, default=3)
    asked = parser.parse_args()
    scan = ga.scan(ga.write_demo(Path(tempfile.mkdtemp(prefix="almanac-bench-"))))
    report = scan.report()
    report.made("pdf")  # imports and fonts are paid once, before both
    ratios = []
    for _ in range(asked.runs):
        began = time.perf_counter()
        for finding in scan.findings[:10]:
            draw(finding, scan.result.survey).figure.savefig(io.BytesIO(), format="png", dpi=160)
        once = time.perf_counter() - began
        each = {}
        for kind in FORMATS:
            began = time.perf_counter()
            size = len(report.made(kind))
            each[kind] = (time.perf_counter() - began, size)
        whole = sum(seconds for seconds, _ in each.values())
        ratios.append(whole / once)
        told = ", ".join(f"{kind} {seconds / once:.2f} ({size / 1e6:.2f} MB)" for kind, (seconds, size) in each.items())
        print(f"charts once {once:.2f} s, all formats {whole / once:.2f} times: {told}", flush=True)
    print(f"median of {asked.runs}: {statistics.median(ratios):.2f} times")


if __name__ == "__main__":
    main()
