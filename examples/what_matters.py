"""Scan a table and print what matters, with the evidence of the first finding."""

from __future__ import annotations

import sys

import golden_almanac as ga


def main(source: str) -> None:
    scan = ga.scan(source)
    print(scan.summary(), "\n")
    for finding in scan.findings[:5]:
        print(f"{finding.score.total:.2f}  {finding.headline}")
    first = scan.findings[0]
    print("\nThe first one, checked by SQL over the source rows:")
    for name, value in first.check().found.items():
        print(f"  {name} = {value:,.2f}")


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "almanac-demo/sailings.csv")
