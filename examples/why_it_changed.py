"""Explain why fewer sailings are on time: mix between routes, or routes becoming less punctual?"""

from __future__ import annotations

import sys

import golden_almanac as ga


def main(source: str) -> None:
    change = ga.explain_change(
        source, "avg(on_time)", period="2025-01/2025-09", baseline="2023-01/2023-09", by=["route"]
    )
    print(change.summary(), "\n")
    frame = change.to_frame()
    print(frame[["label", "baseline", "value", "rate", "mix", "change"]].round(4).to_string(index=False))
    print(f"\nmix {frame['mix'].sum():+.4f}, rate {frame['rate'].sum():+.4f}, together {frame['change'].sum():+.4f}")


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "almanac-demo/sailings.csv")
