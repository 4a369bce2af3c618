"""What is asked of a source, frozen: the same for Python, command line, brief and question.

Each analysis has its own, in its file, with a field for everything that may be said; its public call makes one and runs
it. It can be kept, asked of another source, and shown as a call or a command.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Mapping
from contextlib import nullcontext
from dataclasses import MISSING, dataclass, fields, replace
from typing import Any, ClassVar, Self

from ..support.errors import RequestError, rather
from ..support.one_thread import one_at_a_time
from ..support.progress import told_to
from ..support.shell import suggested
from ..tables import Table
from ..tables.meaning.row_nouns import row_noun
from ..text.languages import speaking, voice
from .read import read


@dataclass(frozen=True, slots=True, kw_only=True)
class Request(ABC):
    """`source` is anything `ga.read` takes; `where` an SQL condition that its rows must meet."""

    #: The public call and the command that ask the same.
    call: ClassVar[str]
    command: ClassVar[str]
    #: Fields whose option on the command line has another name than theirs; of one that is switched off, its option.
    options: ClassVar[Mapping[str, str]] = {}
    #: Whether linear algebra takes one thread, as small matrices want it.
    one_thread: ClassVar[bool] = False

    source: Any
    where: str | None = None

    def run(self, progress: Callable[[str], None] | None = None) -> Any:
        """The result. Raises AlmanacError where the source or the request cannot be used."""
        with told_to(progress), one_at_a_time() if self.one_thread else nullcontext():
            table = read(self.source)
            kept = table if self.where is None else table.filter(self.where)
            with speaking(replace(voice(), rows=row_noun(table))):
                return self._answered(kept)

    @abstractmethod
    def _answered(self, table: Table) -> Any:
        """The result, from the rows that take part."""

    def of(self, source: Any) -> Self:
        """The same request of another source."""
        return replace(self, source=source)

    def given(self) -> dict[str, Any]:
        """What was said beside the source: the fields that are not as they are by default."""
        return {
            field.name: value
            for field in fields(self)
            if field.name != "source"
            and (value := getattr(self, field.name)) != (None if field.default is MISSING else field.default)
        }

    @classmethod
    def from_mapping(cls, source: Any, said: Mapping[str, Any]) -> Self:
        """A request from names and values, such as those of a brief: what may be several may be one or a list. Raises
        RequestError for a name that it does not have."""
        kinds = {field.name: str(field.type) for field in fields(cls) if field.name != "source"}
        for name in said:
            if name not in kinds:
                raise RequestError("The request", name, f"something to ask; {rather(name, list(kinds), 'names')}")
        given: dict[str, Any] = {
            name: several(one) if kinds[name].startswith("tuple") else one for name, one in said.items()
        }
        return cls(source=source, **given)

    def as_call(self) -> str:
        """The call in Python: `ga.compare(source, outcome="delay_min", by="vessel")`."""
        given = ", ".join(f"{name}={value!r}" for name, value in self.given().items())
        return f"ga.{self.call}({f'source, {given}' if given else 'source'})"

    def as_command(self, source: str) -> str:
        """The command line, quoted for a shell, with the source's name in its place."""
        return suggested(self.command, source, *self._words())

    def _words(self) -> list[str]:
        """The options that say what is not as it is by default."""
        words: list[str] = []
        for name, value in self.given().items():
            option = self.options.get(name, f"--{name.replace('_', '-')}")
            if isinstance(value, Mapping):
                value = tuple(f"{key}={one}" for key, one in value.items())
            for one in value if isinstance(value, tuple) else (value,):
                words += [option] if isinstance(one, bool) else [option, str(one)]
        return words


def several(value: Any) -> tuple[Any, ...] | None:
    """One text or several, as a tuple; None where nothing was said."""
    return None if value is None else (value,) if isinstance(value, str) else tuple(value)
