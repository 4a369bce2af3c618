"""A brief: what to read, measure, compare and publish, for whom, as a TOML file. It is read and checked here."""

from __future__ import annotations

import hashlib
import re
import tomllib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime, time
from pathlib import Path
from typing import Any, get_args

from pydantic import BaseModel, ValidationError

from ..support.errors import RequestError, SourceError
from ..tables.io.regular_files import text_of
from ..tables.private_names import digest_of
from .brief_model import IN_WORDS, SUBJECTS, BriefModel

#: Keys of a section that say how its chart is drawn.
WISHES = ("x", "y", "order", "most", "unit", "highlight", "references", "events", "colours")
#: Bytes of a brief at most.
_MOST_BYTES = 1_000_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Brief:
    """A brief as read: `path` its file, `text` that file, `said` its keys, checked; `sections` its sections in
    order."""

    path: Path
    text: str = ""
    said: Mapping[str, Any] = field(default_factory=dict)

    @property
    def folder(self) -> Path:
        return self.path.parent

    @property
    def sections(self) -> Sequence[Mapping[str, Any]]:
        found: Sequence[Mapping[str, Any]] = self.said.get("section", ())
        return found

    @property
    def digest(self) -> str:
        """What it says, as a number: of its text."""
        return hashlib.sha256(self.shown().encode("utf-8")).hexdigest()

    def shown(self) -> str:
        """The text as it may be shown: private columns by digests, which a reading takes as their names."""
        hidden = self.said.get("private")
        if not hidden:
            return self.text
        told = ", ".join(f'"{digest_of(name)}"' for name in hidden)
        return re.sub(r"(?ms)^(\s*)private(\s*)=\s*\[.*?\]", rf"\1private\2= [{told}]", self.text, count=1)

    def get(self, key: str, default: Any = None) -> Any:
        return self.said.get(key, default)

    def span(self, key: str) -> str | None:
        """A period or baseline as the calls take it: said in words, or as it stands."""
        told = self.said.get(key)
        return None if told is None else IN_WORDS.get(told, told)

    def source(self) -> Path:
        """The source, relative to the brief. Raises RequestError where none is named."""
        if "source" not in self.said:
            raise RequestError("The brief", str(self.path), 'one with a source, such as source = "sailings.csv"')
        return self.folder / str(self.said["source"])


def subject(section: Mapping[str, Any]) -> str:
    """What a section is about: the one key that says so."""
    return next(key for key in SUBJECTS if key in section)


def read(path: Path) -> Brief:
    """A brief from its file. Raises SourceError where it cannot be read, RequestError for what it may not say."""
    text = text_of(path, _MOST_BYTES)
    return Brief(path=path, text=text, said=checked(path, text))


def checked(path: Path, text: str) -> dict[str, Any]:
    """The keys of a brief, checked. Raises SourceError or RequestError, which name line, key and what was expected."""
    try:
        said = _plain(tomllib.loads(text))
    except tomllib.TOMLDecodeError as problem:
        at = re.search(r"\(at ([^)]*)\)", str(problem))
        where = f" (trouble at {at[1]})" if at else ""
        raise SourceError(str(path), f"it is not TOML{where}", "Mend that line.") from problem
    except (RecursionError, ValueError) as problem:
        # Values in values without end, numbers of a million digits.
        raise SourceError(
            str(path), "it is no brief: its values are nested or long beyond use", "Make it simpler."
        ) from problem
    try:
        BriefModel.model_validate(said)
    except ValidationError as problem:
        raise _refusal(problem.errors()[0], said, text) from None
    if "mail" in said:
        check_mail(said["mail"]["host"], said["mail"].get("port", 25), said["mail"]["from"], said["mail"]["to"])
    made: dict[str, Any] = said
    return made


def _plain(value: Any) -> Any:
    """Values as a brief takes them: days are texts."""
    if isinstance(value, dict):
        return {key: _plain(one) for key, one in value.items()}
    if isinstance(value, list):
        return [_plain(one) for one in value]
    return value.isoformat() if isinstance(value, date | datetime | time) else value


#: What is wanted of a value, by the kind of trouble.
_WANTED = {
    "string_type": "text",
    "list_type": "a list of texts",
    "dict_type": "a table",
    "model_type": "a table",
    "bool_type": "true or false",
    "int_type": "a whole number",
    "float_type": "a number",
}


def _refusal(trouble: Any, said: Mapping[str, Any], text: str) -> RequestError:
    """One sentence for what a model refused: the line, the key, what was expected, the nearest key."""
    path, kind, more = trouble["loc"], trouble["type"], trouble.get("ctx") or {}
    where, line = _place(path), _line(path, text)
    at = f"Line {line}: " if line else ""
    key = path[-1] if path else ""
    if kind == "extra_forbidden":
        known = _known(path[:-1])
        return RequestError.unknown(f"{at}The key of {where}", key, known, "keys")
    if kind == "missing":
        wanted = ", ".join(_needed(path[:-1]))
        return RequestError(f"{at}{where}", f"no {key}", wanted)
    inside = path if kind == "value_error" and path and isinstance(path[-1], int) else path[:-1]
    if kind == "value_error" and inside == path:
        came = next((str(name) for name in _at(said, path) if name in SUBJECTS), "nothing")
        return RequestError(f"{at}{_place((*path, ''))} of the brief", came, str(more["error"]))
    what = f"{at}{key} in {where}" if not isinstance(key, int) else f"{at}{path[-2]} in {_place(path[:-1])}"
    came = trouble.get("input")
    if kind == "value_error":
        return RequestError(what, came, str(more["error"]))
    if kind == "literal_error":
        return RequestError(what, came, "one of " + str(more["expected"]).replace("'", "").replace(" or ", ", "))
    if kind in ("greater_than_equal", "less_than_equal", "less_than", "too_short"):
        return RequestError(what, came, _bounds(path))
    if kind == "list_type" and key in ("section", "measure", "dimension", "note", "alert"):
        return RequestError(what, came, "tables")
    wanted = "text" if isinstance(key, int) else _WANTED.get(kind, "a value of another kind")
    return RequestError(what, came, wanted)


def _place(path: Sequence[Any]) -> str:
    """Where a key stands: the brief, [look], [[section]] 2."""
    parts = list(path[:-1])
    if not parts:
        return "the brief"
    if len(parts) > 1 and isinstance(parts[1], int):
        return f"[[{parts[0]}]] {parts[1] + 1}"
    return f"[{'.'.join(map(str, parts))}]"


def _model(path: Sequence[Any]) -> type[BaseModel] | None:
    """The model of the table that a path leads to."""
    found: type[BaseModel] | None = BriefModel
    for name in path:
        if isinstance(name, int):
            continue
        if found is None:
            return None
        spec = _named(found).get(str(name))
        found = None if spec is None else _inner(spec.annotation)
    return found


def _named(model: type[BaseModel]) -> dict[str, Any]:
    return {spec.alias or name: spec for name, spec in model.model_fields.items()}


def _inner(annotation: Any) -> type[BaseModel] | None:
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        return annotation
    return next((one for one in map(_inner, get_args(annotation)) if one is not None), None)


def _known(path: Sequence[Any]) -> list[str]:
    model = _model(path)
    return [] if model is None else list(_named(model))


def _needed(path: Sequence[Any]) -> list[str]:
    model = _model(path)
    return [] if model is None else [name for name, spec in _named(model).items() if spec.is_required()]


def _bounds(path: Sequence[Any]) -> str:
    """What numbers a key takes."""
    names = [name for name in path if not isinstance(name, int)]
    key = names[-1]
    if key == "size":
        return "a number from 0.3 to 1"
    if key == "fiscal_start":
        return "a whole number from 1 to 12"
    if key == "port":
        return "a whole number from 1 to 65535"
    if key == "decimals":
        return "a whole number from 0 to 6"
    if key == "periods":
        return "a whole number from 1 to 120"
    if key == "to":
        return "at least one address"
    return f"a whole number, {0 if key == 'minimum_group' else 1} or more"


def _at(said: Any, path: Sequence[Any]) -> Any:
    for name in path:
        said = said[name]
    return said


def _line(path: Sequence[Any], text: str) -> int | None:
    """The line of a key, by the heads of tables before it."""
    lines = text.splitlines()
    start, end, rest = 0, len(lines), list(path)
    heads = [place for place, line in enumerate(lines) if re.match(r"\s*\[", line)]
    if len(rest) > 1 and isinstance(rest[1], int) and not any(re.match(r"\s*\[\[", line) for line in lines):
        # One of a list on the line of its key.
        rest = rest[:1]
    if len(rest) > 1 and isinstance(rest[1], int):
        own = [place for place in heads if re.match(rf"\s*\[\[\s*{re.escape(str(rest[0]))}\s*\]\]", lines[place])]
        if rest[1] >= len(own):
            return _line(rest[:1], text)
        start = own[rest[1]]
        end = next((place for place in heads if place > start), len(lines))
        rest = rest[2:]
        if not rest:
            return start + 1
    elif len(rest) > 1:
        own = [place for place in heads if re.match(rf"\s*\[\s*{re.escape(str(rest[0]))}\b", lines[place])]
        if own:
            start = own[0]
            end = next((place for place in heads if place > start), len(lines))
            rest = rest[1:]
    else:
        end = next(iter(heads), len(lines))
    names = [str(name) for name in rest if not isinstance(name, int)]
    for place in range(start, end):
        if names and re.match(rf"\s*[\"']?{re.escape(names[0])}[\"']?\s*[=.]", lines[place]):
            return place + 1
    return start + 1 if start else None


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
