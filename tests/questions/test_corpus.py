"""Questions of the corpus, their paraphrases, their slips, and what follows them: read rightly, or refused."""

from __future__ import annotations

import random
import tomllib
from collections import Counter

import pytest

from golden_almanac.asking import read
from golden_almanac.asking.words import tokens

from . import tables
from .corpus import FIRST, HOME, SECOND, Entry, entries, judge
from .dialogues import dialogues, judged
from .slips import slipped

ALL = list(entries(*FIRST, *SECOND))


def scored(verdicts: list[tuple[str, str, str]], right: float, wrong: float) -> None:
    """So many right and so few wrong, or the list of what was not."""
    count = Counter(verdict for verdict, _, _ in verdicts)
    n = len(verdicts)
    missed = "\n".join(f"{verdict}: {ask} | {told}" for verdict, ask, told in verdicts if verdict != "right")
    assert count["right"] >= right * n, missed
    assert count["wrong"] <= wrong * n, missed


@pytest.mark.parametrize("names", [FIRST, SECOND], ids=["first half", "second half"])
def test_the_corpus_is_answered(names: tuple[str, ...]) -> None:
    judged_ = [(*judge(entry)[:1], entry.ask, judge(entry)[1]) for entry in entries(*names)]
    scored(judged_, 0.95, 0.01)


def test_paraphrases_are_answered() -> None:
    told = tomllib.loads((HOME / "paraphrases.toml").read_text(encoding="utf-8"))
    known = {(entry.table, entry.ask): entry for entry in ALL}
    made = []
    for table, asked in told.items():
        for ask, others in asked.items():
            for other in others:
                verdict, came = judge(known[table, ask], other)
                made.append((verdict, other, came))
    assert len(made) >= 100
    scored(made, 0.92, 0.01)


def test_slips_are_answered() -> None:
    sure = [entry for entry in ALL if not entry.want.get("unanswerable") and judge(entry)[0] == "right"]
    rng = random.Random(4)
    made = []
    for place in range(200):
        entry: Entry = rng.choice(sure)
        ask = slipped(entry.ask, 31_000 + place)
        verdict, told = judge(entry, ask)
        made.append((verdict, ask, told))
    scored(made, 0.92, 0.01)


def test_dialogues_carry_over() -> None:
    turns = [(verdict, ask, told) for one in dialogues() for ask, verdict, told in judged(one)]
    scored(turns, 0.97, 0.01)


def refusals() -> list[tuple[str, str]]:
    told = tomllib.loads((HOME / "refusals.toml").read_text(encoding="utf-8"))
    return [(table, ask) for table, kinds in told.items() for asks in kinds.values() for ask in asks]


def test_what_cannot_be_answered_is_refused_with_guidance() -> None:
    assert len(refusals()) >= 100
    for table, ask in refusals():
        reading = read(ask, tables.table(table))
        assert reading.asked is None, ask
        assert reading.problem.endswith((".", "?")), ask


def test_no_word_is_dropped() -> None:
    """Every word of a question is in its trace, and an answer has none that was not read."""
    for entry in ALL:
        reading = read(entry.ask, tables.table(entry.table))
        said = [token.text for token in tokens(entry.ask)]
        traced = " ".join(one.words for one in reading.trace).split()
        assert traced == [part for word in said for part in word.split()], entry.ask
        if reading.asked is not None:
            assert all(one.meaning for one in reading.trace), entry.ask
            assert not reading.unread
