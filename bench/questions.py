"""How well questions are read: the corpus, its paraphrases, its slips, dialogues, what must be refused; and how fast.

    python -m bench.questions [--slips 600] [--first 90000]

Prints, for each, how many were right, wrong (answered otherwise than the SQL beside them) and missed (refused).
"""

from __future__ import annotations

import argparse
import random
import time
import tomllib
from collections import Counter
from statistics import median

from tests.questions import tables
from tests.questions.corpus import FIRST, HOME, SECOND, entries, judge
from tests.questions.dialogues import dialogues, judged
from tests.questions.slips import slipped

import golden_almanac as ga
from golden_almanac.asking import read


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--slips", type=int, default=600)
    parser.add_argument("--first", type=int, default=90_000)
    given = parser.parse_args()
    for name, files in (("corpus, first half", FIRST), ("corpus, second half", SECOND)):
        told(name, [judge(entry)[0] for entry in entries(*files)])
    known = {(entry.table, entry.ask): entry for entry in entries(*FIRST, *SECOND)}
    said = tomllib.loads((HOME / "paraphrases.toml").read_text(encoding="utf-8"))
    pairs = [(table, ask, other) for table, asked in said.items() for ask, more in asked.items() for other in more]
    told("paraphrases", [judge(known[table, ask], other)[0] for table, ask, other in pairs])
    sure = [one for one in known.values() if not one.want.get("unanswerable") and judge(one)[0] == "right"]
    rng = random.Random(given.first)
    made = []
    for place in range(given.slips):
        entry = rng.choice(sure)
        made.append(judge(entry, slipped(entry.ask, given.first + place))[0])
    told("slips", made)
    told("turns of dialogues", [verdict for one in dialogues() for _, verdict, _ in judged(one)])
    refused = tomllib.loads((HOME / "refusals.toml").read_text(encoding="utf-8"))
    wrong = [(table, ask) for table, kinds in refused.items() for asks in kinds.values() for ask in asks]
    told(
        "not to be answered",
        ["right" if read(ask, tables.table(table)).asked is None else "wrong" for table, ask in wrong],
    )
    speed()


def told(name: str, verdicts: list[str]) -> None:
    count = Counter(verdicts)
    n = len(verdicts)
    shares = ", ".join(f"{count[word]} {word} ({100 * count[word] / n:.1f}%)" for word in ("right", "wrong", "missed"))
    print(f"{name:<22} {n:>4}: {shares}")


def speed() -> None:
    """Milliseconds to read a question of a table of 100 columns and 50,000 labels, and to answer one of the demo."""
    import numpy as np
    import pandas as pd

    rng = np.random.default_rng(1)
    n = 60_000
    members = [f"Member {k % 50_000:05} of Marl" for k in range(n)]
    labels = pd.DataFrame({"member": members, "day": pd.date_range("2020-01-01", periods=n, freq="h")})
    figures = pd.DataFrame(rng.normal(50, 9, (n, 98)), columns=[f"figure {k} of the yard" for k in range(98)])
    wide = ga.read(pd.concat([labels, figures], axis=1), roles={"member": "dimension"}, name="members")
    demo = tables.table("sailings")
    asked = [
        "average figure 7 of the yard by month",
        "total figure 90 of the yard for Member 00042 of Marl",
        "which mmeber has the highest figure 3 of the yard",
    ]
    for name, table, questions, work in (
        ("reading, 100 columns, 50,000 labels", wide, asked, read),
        ("an answer of the demo", demo, [one.ask for one in entries("sailings") if "sql" in one.want][:40],
         lambda question, table: ga.ask(table, question).sentence),
    ):  # fmt: skip
        work(questions[0], table)
        spent = []
        for question in questions * 3:
            start = time.perf_counter()
            work(question, table)
            spent.append(1_000 * (time.perf_counter() - start))
        print(f"{name:<36} median {median(spent):.0f} ms, slowest {max(spent):.0f} ms")


if __name__ == "__main__":
    main()
