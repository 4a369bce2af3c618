"""English never stands in another language's output: every message of a run is held up to a made-up language.

In it each phrase of the catalogue is written in full-width letters, and the table's columns and labels in Greek. An
ASCII letter in anything that a reader is told is then English that no catalogue was asked for, whatever sentence of the
code it came from.
"""

from __future__ import annotations

import html
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga
from golden_almanac.text.languages import catalogue as catalogues
from golden_almanac.text.languages import inflection
from golden_almanac.text.languages import phrases as filled

from ..text.phrases import phrases

WIDE = str.maketrans({chr(code): chr(code + 0xFEE0) for code in (*range(65, 91), *range(97, 123))})
GREEK = str.maketrans(
    "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ_", "αβψδεφγηιξκλμνοπθρστυβωχυζΑΒΨΔΕΦΓΗΙΞΚΛΜΝΟΠΘΡΣΤΥΒΩΧΥΖ "
)
#: What is no English: names of months and days, short words for sizes, of Babel's German; units and formats.
KNOWN = re.compile(
    r"\b(?:Jan(?:uar)?|Feb(?:ruar)?|März|Mär|Apr(?:il)?|Mai|Juni?|Juli?|Aug(?:ust)?|Sept?(?:ember)?|Okt(?:obe?r?)?|Nov(?:ember)?|Dez(?:ember)?|"
    r"Montage?s?|Dienstage?s?|Mittwochs?|Donnerstage?s?|Freitage?s?|Samstage?s?|Sonntage?s?|Mo|Di|Mi|Do|Fr|Sa|So|Quartals?|Q[1-4]|Kalenderwoche|KW|"
    r"Mio|Mrd|Bio|Tsd|csv|CSV|UTF|BOM|windows|EUR|USD|kg|min|der|die|das|des|den|von|und|dem|[Ee]r|[Ss]ie|[Ee]s|nan|log_loss)\b|--[a-z-]+|[qprtFUHRd]\b ?[<=≤(]|R²|\bp\b|\bη²|\bω²|χ|Δ"
)


def pseudo(text: str) -> str:
    """A phrase in full-width letters, its places left as they are."""
    return "".join(
        piece if piece.startswith("{") else piece.translate(WIDE) for piece in re.split(r"(\{[^}]*\})", text) if piece
    )


def agreed(text: str) -> str:
    """As `pseudo`, with the words inside `{who:was|were}` too."""

    def turn(match: re.Match[str]) -> str:
        return f"{match[1]}:{match[2].translate(WIDE)}}}"

    return re.sub(r"(\{\w+(?:\.\w+)?):([^}]*)\}", turn, pseudo(text))


@pytest.fixture
def made_up(monkeypatch: pytest.MonkeyPatch) -> None:
    table: dict[tuple[str | None, str], Any] = {}
    for context, phrase, many in phrases():
        table[context, phrase] = agreed(phrase) if many is None else (agreed(phrase), agreed(many))
    for context, word in catalogues.catalogue("de"):
        if context == "noun":
            wide = word.translate(WIDE)
            table[context, word] = f"{wide}, n, {wide}, {wide}"
    for module in (catalogues, inflection, filled):
        monkeypatch.setattr(module, "catalogue", lambda language: table)


def check(text: object, seen: list[str]) -> None:
    """Fails where a reader is told anything in ASCII letters."""
    told = html.unescape(str(text))
    # SQL, and the names that a query gives its answer, are the same in all languages; so are keys of answers.
    told = re.sub(
        r"--answer .*|\b(?:sum|avg|count|CAST|AS INT|IN|AND|min|max)\b(?= ?[(\")])?|\b\w+ = -?[0-9.e+-]+", " ", told
    )
    # Columns that a repair makes are named the same in all languages: briefs and queries name them.
    told = re.sub(r"\b(?:period|value)\b(?= *(?:\w*[\uff21-\uff5a]|$))", " ", told)
    told = re.sub(r"[A-Za-z0-9_.-]+\.(?:csv|xlsx)|'[^']*'|„[^“]*“", " ", KNOWN.sub(" ", told))
    left = re.findall(r"[A-Za-z]{2,}[A-Za-z ,]*", told)
    if left:
        seen.append(f"{left} in {text}")


def translated(path: Path, target: Path, rows: int) -> Path:
    """The demo's sailings with Greek columns and labels."""
    frame = pd.read_csv(path)
    frame = frame.drop(columns=[name for name in frame.columns if name.endswith("_id")]).tail(rows)
    dates = [name for name in frame.columns if re.match(r"\d{4}-", str(frame[name].iloc[0]))]
    for name in frame.select_dtypes(["object", "string"]).columns:
        if name not in dates and set(frame[name].dropna().unique()) - {"yes", "no"}:
            frame[name] = frame[name].map(lambda value: value.translate(GREEK) if isinstance(value, str) else value)
    frame.columns = [str(name).translate(GREEK) for name in frame.columns]
    frame.to_csv(target, index=False)
    return target


def told_by(result: Any) -> Iterator[object]:
    """Everything that a result tells a reader."""
    for length in ("short", "standard", "long"):
        try:
            summary = result.summary(length)
        except TypeError:
            summary = result.summary()
        yield from (summary.headline, summary.text, *summary.bullets)
    for name in ("caveats", "assumptions", "bases", "lines", "tables"):
        if hasattr(result, name):
            for one in getattr(result, name)():
                yield from pieces(one)
    for one in getattr(result, "findings", ()):
        yield from (one.headline, one.detail)
    if hasattr(result, "suggestions"):
        for one in result.suggestions(20):
            yield from (one.text, one.reckoned)
    report = result.report()
    model = report.model
    yield from (model.title, model.edition, *model.further, *model.caveats, *model.made)
    for key in model.keys:
        yield from (key.name, key.change)
    for section in model.sections:
        yield from (section.claim, section.detail, *(text for pair in section.evidence for text in pair))
        if section.chart is not None:
            chart = section.chart
            yield from (chart.title, chart.subtitle, chart.alternative)
            yield from (text.get_text() for text in chart.figure.findobj(lambda artist: hasattr(artist, "get_text")))
    page = report.html().decode("utf-8")
    body = re.sub(r"<(script|style|svg|pre|code)\b.*?</\1>", " ", page[page.index("<body") :], flags=re.DOTALL)
    yield from (text for text in re.findall(r">([^<>]+)<", body) if "SELECT" not in text)


def pieces(one: Any) -> Iterator[object]:
    if isinstance(one, str):
        yield one
    elif hasattr(one, "pieces"):
        yield from (text for text, _ in one.pieces if not text.strip().startswith("golden-almanac"))
    else:
        yield from (one.title, *one.heads, *(cell for row in one.rows for cell in row), *(one.total or ()))


@pytest.fixture(scope="module")
def greek(sailings: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    return translated(sailings, tmp_path_factory.mktemp("greek") / "x.csv", 6_000)


def columns(path: Path) -> dict[str, str]:
    return {
        name.translate(GREEK): name.translate(GREEK)
        for name in (
            "revenue",
            "delay_min",
            "on_time",
            "vessel",
            "route",
            "fare_class",
            "channel",
            "passengers",
            "fuel_cost",
            "region",
            "cancelled",
        )
    }


def runs(path: Path) -> dict[str, Any]:
    def name(word: str) -> str:
        return word.translate(GREEK)

    def asked(kind: str) -> Any:
        delay, late, vessel = name("delay_min"), name("on_time"), name("vessel")
        two = f"\"{vessel}\" IN ('{name('Tern')}', '{name('Petrel')}')"
        return {
            "scan": lambda: ga.scan(path),
            "change": lambda: ga.explain_change(path, f'sum("{name("revenue")}")'),
            "change of a rate": lambda: ga.explain_change(path, f'avg("{late}")', baseline="previous"),
            "change of a ratio": lambda: ga.explain_change(
                path, f'sum("{name("revenue")}") / sum("{name("passengers")}")'
            ),
            "changes": lambda: ga.explain_changes(path, [f'sum("{name("revenue")}")', f'avg("{name("cancelled")}")']),
            "drivers": lambda: ga.find_drivers(path, delay),
            "drivers of a yes": lambda: ga.find_drivers(path, late),
            "compare": lambda: ga.compare(path, delay, vessel),
            "compare two": lambda: ga.compare(path, delay, vessel, where=two),
            "compare ranks": lambda: ga.compare(path, delay, vessel, test="Kruskal–Wallis test"),
            "compare shares": lambda: ga.compare(path, late, name("region")),
            "compare two shares": lambda: ga.compare(path, late, vessel, where=two),
            "compare labels": lambda: ga.compare(path, name("fare_class"), name("channel")),
            "regress": lambda: ga.regress(path, name("fuel_cost"), factors=[name("passengers"), name("route")]),
            "relate": lambda: ga.relate(path, name("revenue"), name("passengers")),
            "model": lambda: ga.model_outcome(path, late),
            "total": lambda: ga.total(path, name("revenue"), by=name("route"), period="2025-08"),
            "total by month": lambda: ga.total(path, late, grain="month", order="descending", top=3),
            "total of two years": lambda: ga.total(
                path, name("revenue"), by=name("route"), period="2025-08", baseline="2025-07"
            ),
            "total as shares": lambda: ga.total(path, by=name("channel"), share=True),
            "total a month": lambda: ga.total(path, name("revenue"), per="month"),
            "forecast": lambda: ga.forecast(path, name("revenue"), 3, by=name("route"), grain="week"),
            "forecast of a rate": lambda: ga.forecast(path, late, 3, grain="week"),
            "rows": lambda: ga.list_rows(path, order=name("revenue"), descending=True, top=3),
        }[kind]()

    return {"ask": asked}


KINDS = ["scan", "change", "change of a rate", "change of a ratio", "changes", "drivers", "drivers of a yes", "compare", "compare two",
         "compare ranks", "compare shares", "compare two shares", "compare labels", "regress", "relate", "model",
         "total", "total by month", "total of two years", "total as shares", "total a month",
         "forecast", "forecast of a rate", "rows"]  # fmt: skip


@pytest.mark.usefixtures("made_up")
@pytest.mark.parametrize("kind", KINDS)
def test_no_english_in_what_a_run_tells(greek: Path, kind: str) -> None:
    seen: list[str] = []
    with ga.speaking("de"):
        for text in told_by(runs(greek)["ask"](kind)):
            check(text, seen)
    assert not seen, "\n".join(dict.fromkeys(seen))


@pytest.mark.usefixtures("made_up")
def test_no_english_in_what_a_check_tells(tmp_path: Path, greek: Path) -> None:
    seen: list[str] = []
    for source in (greek, *hostile(tmp_path)):
        with ga.speaking("de"):
            found = ga.check(source)
            for line in found.lines():
                for text in pieces(line):
                    check(text, seen)
            for problem in found.to_dict()["readiness"]:
                check(problem["message"], seen)
                check((problem["question"] or {}).get("text", ""), seen)
                check((problem["repair"] or {}).get("what", ""), seen)
                for example in problem["examples"]:
                    check(example["value"], seen)
    assert not seen, "\n".join(dict.fromkeys(seen))


def hostile(folder: Path) -> list[Path]:
    """Files with as many faults as can be."""
    rng = np.random.default_rng(4)
    days = [f"2024-{month:02d}-{day:02d}" for month in range(1, 13) for day in (1, 8, 15, 22)]

    def written(name: str, head: str, rows: list[str], encoding: str = "utf-8") -> Path:
        path = folder / name
        path.write_bytes((head + "\n" + "\n".join(rows) + "\n").encode(encoding, "replace"))
        return path

    made = [
        written("a.csv", "δα,λο", [f"{day},{place + 1}.{rng.integers(100, 999)}" for place, day in enumerate(days)]),
        written("b.csv", "δα,λο", [f"{day},{place}E{place % 7}" for place, day in enumerate(days)]),
        written("c.csv", "δα,λο", [f"{day},{'€5' if place % 2 else '$6'}" for place, day in enumerate(days)]),
        written(
            "d.csv", "δα,λο,μα", [f"{day},{place},3" if place % 9 else f"{day},4" for place, day in enumerate(days)]
        ),
        written(
            "e.csv",
            "δα,λο",
            [*(f"{day},{place}" for place, day in enumerate(days)), "πο,το", *(f"Π{n},{n}" for n in range(30))],
        ),
        written(
            "f.csv",
            "λο,δα,μα",
            [
                row
                for label in ("ΑΑ", "ΒΒ", "ΓΓ")
                for row in (f"{label},,", *(f",{day},{n}" for n, day in enumerate(days[:9])))
            ],
        ),
        written(
            "g.csv",
            "δα,λο",
            [row for n, day in enumerate(days) for row in ([f"{day},{n}", "δα,λο"] if n % 9 == 8 else [f"{day},{n}"])],
        ),
        written("h.csv", "δα,λο", [f"{day},{'ναι' if n % 3 else '-'}" for n, day in enumerate(days)]),
        written("i.csv", "δα,λο,μα", [f"{day},{n},5" for n, day in enumerate(days)] + [f"{days[3]},3,5", ",300,"]),
        written("j.csv", "δα,λο", [f"{n % 12 + 1:02d}/{n % 11 + 1:02d}/2024,{n}" for n in range(40)]),
        written(
            "k.csv",
            "δα,λο,μα",
            [f"{day},{'Αβγ' if n % 2 else 'αβγ '},{n if n != 7 else 'ΧΧ'}" for n, day in enumerate(days)],
        ),
        written(
            "l.csv", "λο," + ",".join(days[:12]), [f"Π{n}," + ",".join(str(n * m) for m in range(12)) for n in range(6)]
        ),
    ]
    (folder / "m.csv").write_bytes(
        b"\xce\xb4,\xce\xbb\n" + b"".join(f"{day},".encode() + b"\xce\xb1\xff\n" for day in days)
    )
    return [*made, folder / "m.csv"]
