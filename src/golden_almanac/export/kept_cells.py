"""Cells of closed periods on disk, beside the editions of a brief, so that the next edition reads what is new.

They lie in a folder that begins with a dot and that only its owner may read: an edition that is sent holds none of
them. What was kept by a run that did not come to its end is not looked at.
"""

from __future__ import annotations

import json
import os
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..support.errors import OutputError

if TYPE_CHECKING:
    import pyarrow as pa

FOLDER = ".kept"
_STATE, _FORMAT = "kept.json", "golden-almanac/kept/1"


@dataclass(slots=True)
class FolderShelf:
    """Answers in a folder: a Parquet file each, and what they are of in a file of JSON, which is written last."""

    folder: Path
    _begun: tuple[str, date, Mapping[str, tuple[int, int]]] | None = None

    def state(self) -> tuple[str, date, Mapping[str, tuple[int, int]]] | None:
        """See `Shelf.state`; a file that cannot be read counts as none."""
        try:
            told: Any = json.loads((self.folder / _STATE).read_text(encoding="utf-8"))
            if told["format"] != _FORMAT:
                return None
            months = {str(month): (int(n), int(s)) for month, (n, s) in told["months"].items()}
            return str(told["source"]), date.fromisoformat(told["until"]), months
        except (OSError, ValueError, KeyError, TypeError, AttributeError):
            return None

    def get(self, key: str, until: date) -> pa.Table | None:
        """See `Shelf.get`."""
        import pyarrow as pa
        from pyarrow import parquet

        try:
            return parquet.read_table(self._path(key, until), use_threads=False)
        except (OSError, pa.ArrowException):
            return None

    def put(self, key: str, until: date, answer: pa.Table) -> None:
        """See `Shelf.put`. Raises OutputError."""
        from pyarrow import parquet

        path = self._path(key, until)
        beside = path.with_suffix(f".{os.getpid()}")
        if self.folder.is_symlink():
            raise OutputError(str(self.folder), "it is a link, which is not followed", "Remove it.")
        try:
            self.folder.mkdir(parents=True, exist_ok=True, mode=0o700)
            parquet.write_table(answer, beside, compression="zstd")
            beside.replace(path)
        except OSError as problem:
            raise OutputError(
                str(self.folder), f"cells cannot be kept there ({problem.strerror})",
                "Make room, or write keep_cells = false in the brief.",
            ) from None  # fmt: skip

    def begin(self, source: str, until: date, months: Mapping[str, tuple[int, int]]) -> None:
        """See `Shelf.begin`."""
        self._begun = source, until, months

    def settle(self) -> None:
        """The run came to its end: what was put counts, what was kept before goes."""
        if self._begun is None or not self.folder.is_dir():
            return
        source, until, months = self._begun
        told = {"format": _FORMAT, "source": source, "until": str(until), "months": months}
        beside = self.folder / f"{_STATE}.{os.getpid()}"
        beside.write_text(json.dumps(told), encoding="utf-8")
        beside.replace(self.folder / _STATE)
        for path in sorted(self.folder.iterdir()):
            if path.name != _STATE and not path.name.endswith(f".{until}.parquet"):
                with suppress(OSError):
                    path.unlink()

    def _path(self, key: str, until: date) -> Path:
        return self.folder / f"{key[:40]}.{until}.parquet"
