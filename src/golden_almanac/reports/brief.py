"""A brief: what to read, measure, compare and publish, for whom, as a TOML file. It is read and checked here."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from ..core.errors import RequestError, SourceError, rather

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
        said = tomllib.loads(path.read_text(encoding="utf-8"))
    except OSError as problem:
        raise SourceError(str(path), f"it cannot be read ({problem.strerror})", "Name a brief.") from problem
    except UnicodeDecodeError as problem:
        raise SourceError(str(path), "it is not UTF-8 text", "Save the brief as UTF-8.") from problem
    except tomllib.TOMLDecodeError as problem:
        raise SourceError(str(path), f"it is not TOML ({problem})", "Mend that line.") from problem
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
    return Brief(path=path, said=said)


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
