"""Fuzzing: a table, its names and the options of a command drawn from a vocabulary of nasty strings, run whole.

The suite runs a few hundred cases; `python -m tests.attacks.fuzzing --cases 10000 --seed 1` runs many by hand and says
which failed, each with the number that makes it again (`--only NUMBER`).
"""

from __future__ import annotations

import argparse
import csv
import io
import os
import re
import sys
import tempfile
import time
import zipfile
from pathlib import Path

import numpy as np

from ..commands import Done
from .kit import LIBRARY_WORDS, attack, texts

#: Strings that have broken programs: formulas, markup, shells, SQL, controls, directions, paths, numbers and none.
VOCABULARY = [
    "", " ", "a", "0", "-0", "1E5", "00123", "1e999", "nan", "inf", "None", "null", "NULL", "true", "N/A", "-", "--", "#REF!", "#N/A",
    "=1+1", "+1+1", "-1+1", "@SUM(A1)", "=cmd|'/C calc'!A0", '=HYPERLINK("http://x")', "\t=1", "＝1",
    "<script>alert(1)</script>", "<img src=x onerror=alert(1)>", "</text></svg>", "<!--fonts-->", "&lt;", "&#0;", "]]>", "<![CDATA[", "{{ 7*7 }}",
    "{% x %}", "{0}", "{who}", "{", "}", "%s", "%", "100%", "$x^2$", "$\\frac{", "\\", "\\n", "\\x1b", "#let x = 1", "#import", "*bold*", "_x_",
    "`id`", "$(id)", "; id", "| id", "&& id", "' OR 1=1 --", '"; DROP TABLE source; --', "source", "numbered", "x'y", 'x"y', "x,y", "x;y", "x|y",
    "\x1b[31m", "\x1b]0;t\x07", "\x9b2J", "\x07", "\x08", "\x7f", "\x00", "\x01", "\r", "\n", "\r\n", "\x0b", "\x85", "\u2028", "\u202e", "\u2066",
    "\ufeff", "\ufffe", "\ufffd", "\ufdd0", "\u200b", "\u00ad", "\U0001f600", "\U000e0041", "é", "e\u0301", "ﬀ", "ß", "İ", "ı", "中文", "עברית", "العربية",
    "../x", "/etc/passwd", "C:\\x", "con", "a" * 300, "w" * 3000, "var(--accent)", "url(#x)", "#A86A00", "(other)", "(no value)", "other", "total",
    "Total", "2024", "2024-01", "01/02/03", "31.12.2024", "12:30", "1.234", "1,234", "1.234,50", "€5", "5 kg", "5%", "(5)", "−5", "1 000", "date",
    "value", "\trow", "row numbers", "period", "n", "sum(x)", "count(*)", "x.y", "x y", "X", "x ", " x", "ROW", "file", "sheet", "label", "group",
]  # fmt: skip
#: Parts of the vocabulary that must never be alive, with where they would be.
FORMATS = [".html", ".json", ".csv", ".md", ".xlsx", ".pptx", ".docx", ".eml", ".pdf"]
ENDINGS = [".csv", ".csv", ".csv", ".csv", ".json", ".xlsx", ".parquet", ".sqlite"]


def table(rng: np.random.Generator, folder: Path) -> tuple[Path, list[str]]:
    """A file with nasty labels and headings; its path, and the headings."""
    columns = int(rng.integers(1, 6))
    rows = int(rng.choice([0, 1, 2, 5, 40, 160, 160, 400]))
    names = [str(rng.choice(VOCABULARY)) if rng.random() < 0.6 else f"c{place}" for place in range(columns)]
    made: list[list[object]] = []
    for _ in range(columns):
        kind = rng.choice(["labels", "labels", "numbers", "dates", "mixed", "constant", "few"])
        labels = [str(rng.choice(VOCABULARY)) for _ in range(int(rng.integers(1, 8)))]
        if kind == "labels":
            made.append([str(one) for one in rng.choice(labels, rows)])
        elif kind == "numbers":
            size = float(rng.choice([1, 1e-9, 1e12, 1e18, 1e300]))
            made.append([float(one) if rng.random() < 0.97 else None for one in rng.normal(5, 2, rows) * size])
        elif kind == "dates":
            days = np.datetime64("2022-01-01") + np.sort(rng.integers(0, 900, rows)).astype("timedelta64[D]")
            made.append([str(day) for day in days])
        elif kind == "mixed":
            made.append(
                [str(rng.choice(VOCABULARY)) if rng.random() < 0.1 else int(rng.integers(0, 99)) for _ in range(rows)]
            )
        elif kind == "constant":
            made.append([labels[0]] * rows)
        else:
            made.append([labels[0] if rng.random() < 0.02 else None for _ in range(rows)])
    path = folder / f"t{rng.choice(ENDINGS)}"
    try:
        written(path, names, made)
    except Exception:  # noqa: BLE001 - the library that writes the case may refuse it; then it is a CSV
        path = folder / "t.csv"
        written(path, names, made)
    return path, names


def written(path: Path, names: list[str], columns: list[list[object]]) -> None:
    import pandas as pd

    rows = list(zip(*columns, strict=True))
    if path.suffix == ".csv":
        out = io.StringIO()
        write = csv.writer(out, lineterminator="\n", quoting=csv.QUOTE_MINIMAL).writerow
        write(names)
        for row in rows:
            write(["" if cell is None else cell for cell in row])
        path.write_bytes(out.getvalue().encode("utf-8", "surrogatepass"))
        return
    unique = [f"{name}{place}" if names.index(name) != place else name for place, name in enumerate(names)]
    frame = pd.DataFrame(rows, columns=unique).astype(object)
    if path.suffix == ".json":
        frame.to_json(path, orient="records")
    elif path.suffix == ".xlsx":
        frame.to_excel(path, index=False)
    elif path.suffix == ".parquet":
        frame.astype("string").to_parquet(path)
    else:
        import sqlite3

        with sqlite3.connect(path) as base:
            frame.astype(str).to_sql("t", base, index=False)
        base.close()


def command(rng: np.random.Generator, path: Path, names: list[str], folder: Path) -> list[str]:
    """A command over the file, its options drawn from the headings and the vocabulary."""

    def word() -> str:
        pool = names if names and rng.random() < 0.7 else VOCABULARY
        return str(rng.choice(pool)).replace("\0", "")

    kind = str(
        rng.choice(
            [
                "check",
                "check",
                "scan",
                "scan",
                "scan",
                "change",
                "drivers",
                "compare",
                "relate",
                "regress",
                "publish",
                "ask",
                "ask",
                "total",
                "rows",
                "forecast",
                "growth",
                "cohorts",
                "figures",
                "ledger",
                "peers",
                "table",
            ]
        )
    )
    made = [kind, str(path)]
    if kind == "compare":
        made += ["-m", word(), "-b", word()]
    elif kind == "ask":
        return ["ask", str(path), " ".join(word() for _ in range(int(rng.integers(0, 7))))]
    elif kind == "rows":
        return ["rows", str(path), "--order", word(), "-w", word(), "-n", "3"]
    elif kind == "total":
        return ["total", str(path), "-m", word(), "-b", word(), "--period", word(), "--json"]
    elif kind == "forecast":
        return ["forecast", str(path), "-m", word(), "-b", word(), "--periods", str(int(rng.integers(-1, 30)))]
    elif kind == "growth":
        return ["growth", str(path), "-m", word(), "-b", word()]
    elif kind == "cohorts":
        return ["cohorts", str(path), "--member", word(), "--active", word(), "-m", word(), "-b", word()]
    elif kind == "ledger":
        return ["ledger", str(path), "--account", word(), "--amount", word(), "--base", word(), "--since", word()]
    elif kind == "peers":
        return ["peers", str(path), str(path), "-m", word(), "--size", word(), "--category", word()]
    elif kind == "table":
        return ["table", str(path), "--rows", word(), "--columns", word(), "-m", word(), "-n", "2"]
    elif kind == "figures":
        return ["figures", str(path), "-m", word(), "--period", str(rng.choice(["last 7 days", "2024-05", word()]))]
    elif kind == "relate":
        made += ["-x", word(), "-y", word()]
    elif kind == "regress":
        made += ["--outcome", word(), "--factor", word()]
    elif kind == "drivers":
        made += ["--outcome", word()]
    elif kind == "publish":
        return ["publish", str(brief(rng, path, word, folder))]
    optional = [
        ["-m", word()], ["-m", f'sum("{word()}")'], ["-b", word()], ["-t", word()], ["-w", f"\"{word()}\" = '{word()}'"], ["-w", word()],
        ["-g", str(rng.choice(["month", "day", word()]))], ["--period", word()], ["--json"], ["--locale", str(rng.choice(["de", "fr", "es", word()]))],
        ["--answer", f"{word()}={word()}"], ["--sql", f'SELECT "{word()}" FROM source'], ["--private", word()], ["--minimum-group", "5"],
        ["-o", str(folder / "out" / f"o{rng.choice(FORMATS)}")], ["-o", str(folder / "out" / f"o{rng.choice(FORMATS)}")],
        ["-o", str(folder / "out" / f"o{word()}")], ["--notes", word() or "x"], ["--call", f"{word()}={word()}"], ["--length", "short"], ["-n", "3"],
    ]  # fmt: skip
    fitting = {"check": (9, 10, 11, 12, 13, 8), "scan": range(21), "change": range(21)}.get(
        kind, (4, 5, 8, 9, 12, 14, 15, 16)
    )
    for place in fitting:
        if rng.random() < 0.14:
            made += optional[place]
    return made


def brief(rng: np.random.Generator, path: Path, word: object, folder: Path) -> Path:
    import json

    def text() -> str:
        # JSON strings are TOML strings, but for what TOML wants escaped too.
        return json.dumps(word(), ensure_ascii=True).replace("\\u007f", "\\u007F").replace("\x7f", "\\u007F")  # type: ignore[operator]

    lines = [
        f"source = {json.dumps(path.name)}",
        'out = "out"',
        f'formats = ["{str(rng.choice(FORMATS))[1:]}", "json"]',
    ]
    more = [f"title = {text()}", f"by = [{text()}]", f"owner = {text()}", f"text = {text()}", f"private = [{text()}]", "minimum_group = 4",
            f"[names]\n{text()} = {text()}", f"[[section]]\nnote = {text()}", f"[[section]]\ncompare = {text()}\nby = {text()}",
            f'[[section]]\ndraw = "bars"\ntitle = {text()}\nsql = "SELECT * FROM source LIMIT 20"']  # fmt: skip
    lines += [line for line in more if rng.random() < 0.25]
    made = folder / "b.toml"
    made.write_text("\n".join(lines) + "\n", encoding="utf-8")
    return made


def faults(found: Done, folder: Path, before: set[str]) -> list[str]:
    """What is wrong with how a command ended."""
    wrong = []
    if found.returncode not in (0, 2):
        wrong.append(f"status {found.returncode}")
    for text in (found.stdout, found.stderr):
        hit = LIBRARY_WORDS.search(text)
        if hit and hit[0] not in "".join(VOCABULARY):
            wrong.append(f"library word {hit[0]!r}")
        if re.search(r"[\x00-\x08\x0b-\x1f\x7f-\x9f\u202a-\u202e\u2066-\u2069\u2028]", text):
            wrong.append("a control character on the screen")
    if found.returncode == 2:
        if len(found.stderr.strip().splitlines()) != 1 or len(found.stderr) > 1_000:
            wrong.append(f"a refusal of {len(found.stderr.splitlines())} lines, {len(found.stderr)} letters")
        if found.stdout:
            wrong.append("a refusal with output")
    after = {str(one.relative_to(folder)) for one in folder.rglob("*")}
    outside = [one for one in after - before if not one.startswith("out")]
    if outside or (found.returncode == 2 and after - before):
        wrong.append(f"files outside the target or after a refusal: {sorted(after - before)[:3]}")
    if (folder / "out").is_dir() and found.returncode == 0:
        for place, text in texts(folder / "out"):
            wrong += [f"{what} alive in {place}" for what in alive(place, text)]
        wrong += [f"a formula in {one}" for one in (folder / "out").rglob("*.pptx") if formulas_in(one)]
    return wrong


def formulas_in(path: Path) -> bool:
    """Whether a workbook inside slides holds a formula."""
    with zipfile.ZipFile(path) as pack:
        for name in pack.namelist():
            if name.endswith(".xlsx"):
                with zipfile.ZipFile(io.BytesIO(pack.read(name))) as book:
                    if any(b"<f>" in book.read(one) for one in book.namelist() if "worksheets/" in one):
                        return True
    return False


def alive(place: str, text: str) -> list[str]:
    """What of the vocabulary means something where it stands."""
    found = []
    if place.endswith((".html", "text/html", ".svg")):
        if re.search(r"<script>alert|<img src=x|</text></svg><", text):
            found.append("markup")
        if text.count("<script") > 1:
            found.append("a script")
    if place.endswith(".csv"):
        for row in csv.reader(io.StringIO(text)):
            if any(
                re.match(r"\s*[=+\-@\t\r＝]", cell) and not re.match(r"[-+]?[0-9][0-9.,e+-]*%?$", cell) for cell in row
            ):
                found.append("a formula")
                break
    if place.endswith((".html", ".md", ".json", ".eml", ".csv")) and re.search(r"[\x00-\x08\x0b\x0c\x0e-\x1f]", text):
        found.append("a control character")
    return found


def case(seed: int, number: int) -> list[str]:
    """One case, made from its numbers; what was wrong with it."""
    rng = np.random.default_rng([seed, number])
    here = os.getcwd()
    with tempfile.TemporaryDirectory(prefix="almanac-fuzz-") as name:
        folder = Path(name)
        try:
            path, names = table(rng, folder)
            asked = command(rng, path, names, folder)
            before = {str(one.relative_to(folder)) for one in folder.rglob("*")}
            os.chdir(folder)
            try:
                found = attack(*asked)
            except BaseException as problem:
                if isinstance(problem, KeyboardInterrupt):
                    raise
                return [f"{type(problem).__name__}: {str(problem)[:200]} in {asked!r:.300}"]
            return [f"{fault} in {asked!r:.300}" for fault in faults(found, folder, before)]
        finally:
            os.chdir(here)


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--cases", type=int, default=10_000)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--first", type=int, default=0)
    parser.add_argument("--step", type=int, default=1)
    parser.add_argument("--only", type=int)
    given = parser.parse_args()
    numbers = [given.only] if given.only is not None else range(given.first, given.cases, given.step)
    began, failed, count = time.monotonic(), 0, 0
    for number in numbers:
        count += 1
        for fault in case(given.seed, number):
            failed += 1
            sys.stdout.write(f"{number}: {fault}\n")
            sys.stdout.flush()
    sys.stdout.write(f"{count} cases, seed {given.seed}: {failed} faults, {time.monotonic() - began:.0f} s\n")
    return 1 if failed else 0


if __name__ == "__main__":
    raise SystemExit(main())
