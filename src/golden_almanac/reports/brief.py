"""A brief: what to read, measure, compare and publish, for whom, as a TOML file. It is read and checked here."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from ..support.errors import PeriodError, RequestError, SourceError, rather
from ..tables.calendar import STANDARD, parse_period
from ..tables.io.regular_files import text_of

#: What each key of a brief holds.
_TEXT, _TEXTS, _NUMBER, _FLAG, _TABLE, _TABLES = (
    "text",
    "a list of texts",
    "a number",
    "true or false",
    "a table",
    "tables",
)
_KEYS = {
    "title": _TEXT,
    "subtitle": _TEXT,
    "owner": _TEXT,
    "source": _TEXT,
    "sheet": _TEXT,
    "table": _TEXT,
    "time": _TEXT,
    "grain": _TEXT,
    "measures": _TEXTS,
    "by": _TEXTS,
    "where": _TEXT,
    "focus": _TEXTS,
    "ignore": _TEXTS,
    "private": _TEXTS,
    "natures": _TABLE,
    "rows": _TEXT,
    "rates": _TEXT,
    "minimum_group": _NUMBER,
    "better": _TABLE,
    "period": _TEXT,
    "baseline": _TEXT,
    "length": _TEXT,
    "text": _TEXT,
    "locale": _TEXT,
    "names": _TABLE,
    "formats": _TEXTS,
    "out": _TEXT,
    "top": _NUMBER,
    "switch": _TEXT,
    "pages": _TEXT,
    "notes": _TEXT,
    "section": _TABLES,
    "look": _TABLE,
    "mail": _TABLE,
    "calendar": _TABLE,
}
_LOOK = {"colours": _TABLE}
_MAIL = {"host": _TEXT, "port": _NUMBER, "from": _TEXT, "to": _TEXTS}
_CALENDAR = {"fiscal_start": _NUMBER, "week_start": _TEXT, "zone": _TEXT, "holidays": _TEXT, "as_of": _TEXT}
#: What a section may be: one that is there (by its id, or all of a kind), or a new one.
_SUBJECTS = {
    "id": _TEXT,
    "kind": _TEXT,
    "change": _TEXT,
    "drivers": _TEXT,
    "forecast": _TEXT,
    "compare": _TEXT,
    "draw": _TEXT,
    "show": _TEXT,
    "note": _TEXT,
}
_SECTION = _SUBJECTS | {
    "drop": _FLAG,
    "first": _FLAG,
    "new_page": _FLAG,
    "title": _TEXT,
    "text": _TEXT,
    "chart": _TEXT,
    "size": _NUMBER,
    "sql": _TEXT,
    "period": _TEXT,
    "baseline": _TEXT,
    "periods": _NUMBER,
    "target": _NUMBER,
    "by": _TEXT,
    "x": _TEXT,
    "y": _TEXTS,
    "order": _TEXT,
    "most": _NUMBER,
    "unit": _TEXT,
    "highlight": _TEXTS,
    "references": _TABLE,
    "events": _TABLE,
    "colours": _TABLE,
}
#: Keys of a section that say how its chart is drawn.
WISHES = ("x", "y", "order", "most", "unit", "highlight", "references", "events", "colours")


#: Bytes of a brief at most.
_MOST_BYTES = 1_000_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Brief:
    """A brief as read: `path` its file, `said` its keys, checked; `sections` its sections in order."""

    path: Path
    said: Mapping[str, Any] = field(default_factory=dict)

    @property
    def folder(self) -> Path:
        return self.path.parent

    @property
    def sections(self) -> Sequence[Mapping[str, Any]]:
        found: Sequence[Mapping[str, Any]] = self.said.get("section", ())
        return found

    def get(self, key: str, default: Any = None) -> Any:
        return self.said.get(key, default)

    def source(self) -> Path:
        """The source, relative to the brief. Raises RequestError where none is named."""
        if "source" not in self.said:
            raise RequestError("The brief", str(self.path), 'one with a source, such as source = "sailings.csv"')
        return self.folder / str(self.said["source"])


def subject(section: Mapping[str, Any]) -> str:
    """What a section is about: the one key that says so."""
    return next(key for key in _SUBJECTS if key in section)


def read(path: Path) -> Brief:
    """A brief from its file. Raises SourceError where it cannot be read, RequestError for what it may not say."""
    try:
        said = tomllib.loads(text_of(path, _MOST_BYTES))
    except tomllib.TOMLDecodeError as problem:
        at = re.search(r"\(at ([^)]*)\)", str(problem))
        where = f" (trouble at {at[1]})" if at else ""
        raise SourceError(str(path), f"it is not TOML{where}", "Mend that line.") from problem
    except (RecursionError, ValueError) as problem:
        # Values in values without end, numbers of a million digits.
        raise SourceError(
            str(path), "it is no brief: its values are nested or long beyond use", "Make it simpler."
        ) from problem
    _check(said, _KEYS, "the brief")
    _check(said.get("look", {}), _LOOK, "[look]")
    _check(said.get("mail", {}), _MAIL, "[mail]")
    _check(said.get("calendar", {}), _CALENDAR, "[calendar]")
    missing = [key for key in ("host", "from", "to") if "mail" in said and key not in said["mail"]]
    if missing:
        raise RequestError("[mail] of the brief", f"no {missing[0]}", "host, from and to")
    for place, section in enumerate(said.get("section", []), start=1):
        where = f"[[section]] {place}"
        _check(section, _SECTION, where)
        about = [key for key in _SUBJECTS if key in section]
        if len(about) != 1:
            raise RequestError(f"{where} of the brief", ", ".join(about) or "nothing", f"one of {', '.join(_SUBJECTS)}")
        if about[0] in ("draw", "show") and "sql" not in section:
            raise RequestError(f"{where} of the brief", about[0], 'with sql = "SELECT … FROM source …"')
    _check_sizes(said)
    if "mail" in said:
        check_mail(said["mail"]["host"], said["mail"].get("port", 25), said["mail"]["from"], said["mail"]["to"])
    return Brief(path=path, said=said)


#: Keys whose values are whole numbers, the least of each, and what they are called.
_WHOLE = {"top": (1, "how many sections to keep"), "minimum_group": (0, "a number of rows")}


def _check_sizes(said: Mapping[str, Any]) -> None:
    """Refuse numbers that are out of any range, before anything is read."""
    for key, (least, what) in _WHOLE.items():
        if key in said:
            _whole(said[key], key, least, what)
    for place, section in enumerate(said.get("section", []), start=1):
        where = f"[[section]] {place}"
        if "most" in section:
            _whole(section["most"], f"most in {where}", 1, "how many to draw")
        if "size" in section and not 0.3 <= section["size"] <= 1:
            raise RequestError(f"size in {where}", section["size"], "a number from 0.3 to 1")
    for key, value in said.get("calendar", {}).items():
        if _CALENDAR[key] == _NUMBER:
            _whole(value, f"{key} in [calendar]", 1, "1 to 12")
    for place, spans in enumerate([said, *said.get("section", [])]):
        where = f" in [[section]] {place}" if place else ""
        if "period" in spans and not re.fullmatch(r"last|last \d{1,5} days?", spans["period"]):
            _period(spans["period"], f"period{where}")
        if "baseline" in spans and spans["baseline"] not in ("previous", "year-ago"):
            _period(spans["baseline"], f"baseline{where}")
    for key, held in _TEXTUAL.items():
        table = said.get("look", {}).get("colours", {}) if key == "colours" else said.get(key, {})
        for name, value in table.items():
            if not isinstance(value, str):
                raise RequestError(f"{name} in {key}", value, held)
    if said.get("length", "standard") not in ("short", "standard", "long"):
        raise RequestError("length", said["length"], "one of short, standard, long")


#: Tables of a brief whose values are texts.
_TEXTUAL = {"names": "a word", "better": "up or down", "colours": "a colour"}


def _period(text: str, key: str) -> None:
    try:
        parse_period(text, STANDARD)
    except PeriodError:
        raise RequestError(key, text, "a period such as 2025, 2025-Q3, 2025-08 or 2025-W07") from None


def _whole(value: Any, key: str, least: int, what: str) -> None:
    if not (isinstance(value, int) and least <= value < 10**9):
        raise RequestError(key, value, f"a whole number, {least} or more ({what})")


def check_mail(host: str, port: Any, sender: str, to: Sequence[str]) -> None:
    """Refuse addresses, hosts and ports that are none. Raises RequestError."""
    for address in (sender, *to):
        if len(address) > 254 or not re.fullmatch(r"[!#-'*+\-/-9=?A-Z^-~.]{1,64}@[A-Za-z0-9.\-]+", address):
            raise RequestError("The address", address, "one such as office@example.org")
    if not to:
        raise RequestError("The recipients", "nobody", "at least one address")
    if len(host) > 253 or not re.fullmatch(
        r"[A-Za-z0-9](?:[A-Za-z0-9.\-:]{0,61}[A-Za-z0-9])?(?:\.[A-Za-z0-9.\-]+)*", host
    ):
        raise RequestError("The mail server", host, "a name such as mail.example.org")
    if any(not 0 < len(part) <= 63 for part in host.rstrip(".").split(".")):
        raise RequestError("The mail server", host, "a name whose parts have 1 to 63 letters")
    if isinstance(port, bool) or not isinstance(port, int) or not 1 <= port <= 65_535:
        raise RequestError("The port of the mail server", port, "a whole number from 1 to 65535")


def _check(said: Any, known: Mapping[str, str], where: str) -> None:
    """Refuse unknown keys, with the nearest ones, and values of another kind."""
    for key, value in said.items():
        if key not in known:
            raise RequestError(
                f"The key of {where}", key, f"one there is; {rather(key, list(known), 'keys').rstrip('.')}"
            )
        if not _is(value, known[key]):
            raise RequestError(f"{key} in {where}", value, known[key])


def _is(value: Any, kind: str) -> bool:
    if kind == _TEXT:
        return isinstance(value, str)
    if kind == _TEXTS:
        return isinstance(value, list) and all(isinstance(one, str) for one in value)
    if kind == _NUMBER:
        return isinstance(value, int | float) and not isinstance(value, bool)
    if kind == _FLAG:
        return isinstance(value, bool)
    if kind == _TABLE:
        return isinstance(value, dict)
    return isinstance(value, list) and all(isinstance(one, dict) for one in value)
