"""Counts false questions on clean ledgers, and planted slips told in the first three places.

`python -m bench.ledger --seeds 60 --first 1 [--postings]`; `--postings` makes single postings of another trade, which
were written once the review was done: a clinic whose accounts have many postings a month, memory and a common growth.
"""

from __future__ import annotations

import argparse
from collections import Counter

import numpy as np
import pandas as pd

import golden_almanac as ga

MONTHS = pd.period_range("2022-01", periods=36, freq="M")
_ACCOUNTS = 40
SLIPS = ("twice", "sign", "shifted", "drift")


def monthly(seed: int) -> tuple[list[str], np.ndarray]:
    """Revenue and costs by month: a season or none, noise of 2 to 12% of its own in each account."""
    random = np.random.default_rng(seed)
    names = ["4000 Revenue", *(f"{5000 + 10 * place} Account {place}" for place in range(1, _ACCOUNTS))]
    along = np.arange(36)
    season = 1 + 0.25 * np.sin(2 * np.pi * (along + 3) / 12)
    rows = []
    for place in range(_ACCOUNTS):
        level = 1e6 if place == 0 else 1e6 * np.exp(random.normal(-4.2, 1.1))
        own = season if place == 0 or random.random() < 0.4 else np.ones(36)
        rows.append(level * own * np.exp(random.normal(0, random.uniform(0.02, 0.12), 36)))
    return names, np.round(np.array(rows), 2)


def planted(amounts: np.ndarray, what: str, account: int, month: int, random: np.random.Generator) -> None:
    """A slip in one account, in place."""
    own = amounts[account]
    if what == "twice":
        own[month] *= 2
    elif what == "sign":
        own[month] *= -1
    elif what == "shifted":
        own[month + 1] += own[month]
        own[month] = np.nan
    else:
        own *= np.exp(0.02 * np.maximum(0, np.arange(36) - random.integers(0, 19)))


def frame_of(names: list[str], amounts: np.ndarray) -> pd.DataFrame:
    """A row an account and month."""
    rows = [
        (name, month.to_timestamp(), amount)
        for name, row in zip(names, amounts, strict=True)
        for month, amount in zip(MONTHS, row, strict=True)
        if amount == amount
    ]
    return pd.DataFrame(rows, columns=["account", "month", "amount"])


def clinic(seed: int, what: str | None) -> tuple[pd.DataFrame, str]:
    """The postings of a clinic: accounts with memory (AR of 0.4), a common growth, one to thirty postings a month."""
    random = np.random.default_rng(10_000 + seed)
    names = ["R1 Treatment fees", "R2 Laboratory fees", *(f"K{place:02d} Kostenart" for place in range(1, 34))]
    account, month, rows = int(random.integers(2, len(names))), int(random.integers(6, 28)), []
    start = int(random.integers(4, 18))
    for place, name in enumerate(names):
        level = 420_000 * (1.0 if place < 2 else float(np.exp(random.normal(-3.6, 0.9))))
        many, left, spread = int(random.choice([1, 1, 2, 5, 12, 30])), 0.0, random.uniform(0.01, 0.06)
        for at, period in enumerate(MONTHS):
            left = 0.4 * left + random.normal(0, spread)
            size = level * np.exp(0.004 * at + left)
            if place == account and what == "drift":
                size *= np.exp(0.02 * max(0, at - start))
            parts = random.dirichlet(np.full(many, 6.0)) * size
            shift = what == "shifted" and place == account and at == month
            times = 2 if what == "twice" and place == account and at == month else 1
            side = -1 if what == "sign" and place == account and at == month else 1
            for part in parts:
                day = (period + int(shift)).to_timestamp() + pd.Timedelta(days=int(random.integers(0, 28)))
                rows += [(day, name, round(side * part, 2))] * times
    return pd.DataFrame(rows, columns=["booked", "account", "amount"]), names[account]


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seeds", type=int, default=20)
    parser.add_argument("--first", type=int, default=1)
    parser.add_argument("--postings", action="store_true")
    options = parser.parse_args()
    false: Counter[str] = Counter()
    found: Counter[str] = Counter()
    accounts = 0
    base = None if not options.postings else ["R1 Treatment fees", "R2 Laboratory fees"]
    for seed in range(options.first, options.first + options.seeds):
        if options.postings:
            told = ga.review_ledger(clinic(seed, None)[0], "account", base=base).to_frame()
            accounts += 35
        else:
            told = ga.review_ledger(frame_of(*monthly(seed)), "account").to_frame()
            accounts += _ACCOUNTS
        false.update(told["weight"])
        false["accounts"] += told["account"].nunique()
        for what in SLIPS:
            random = np.random.default_rng(seed)
            if options.postings:
                frame, name = clinic(seed, what)
            else:
                names, amounts = monthly(1000 + seed)
                account, month = int(random.integers(1, _ACCOUNTS)), int(random.integers(3, 33))
                planted(amounts, what, account, month, random)
                frame, name = frame_of(names, amounts), names[account]
            first = ga.review_ledger(frame, "account", base=base).to_frame().head(3)
            found[what] += int(name in set(first["account"]))
    years = accounts * 3
    print(
        f"clean: {false['major']} false major, {false['minor']} minor, {false['small']} small in {years} account-years;"
    )
    print(f"       {false['accounts']} of {accounts} accounts asked about")
    print(
        "planted, told in the first three places: "
        + ", ".join(f"{what} {found[what]} of {options.seeds}" for what in SLIPS)
    )


if __name__ == "__main__":
    main()
