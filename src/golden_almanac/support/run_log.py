"""What a run did, by the standard library's logging: lines for people, or JSON lines for machines.

Nothing is logged of the data: what is being done, how long it took, how large what came of it is.
"""

from __future__ import annotations

import json
import logging
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path

from .errors import OutputError

NAME = "golden_almanac"
log = logging.getLogger(NAME)


class JsonLines(logging.Formatter):
    """A line of JSON for each record: time (UTC), level, message, and what was given as `extra={"facts": …}`."""

    def format(self, record: logging.LogRecord) -> str:
        told = {
            "time": datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds"),
            "level": record.levelname.lower(),
            "message": record.getMessage(),
            **getattr(record, "facts", {}),
        }
        return json.dumps(told, ensure_ascii=True)


@contextmanager
def logged(path: str | None, *, verbose: bool) -> Iterator[None]:
    """Inside, the run is logged: to a file as JSON lines, added at its end, and to standard error where `verbose`.

    Raises OutputError where the file cannot be written.
    """
    handlers: list[logging.Handler] = []
    if path is not None:
        try:
            written = logging.FileHandler(Path(path), encoding="utf-8")
        except (OSError, ValueError) as problem:
            raise OutputError(path, "the log cannot be written", "Choose a file that you may write to.") from problem
        written.setFormatter(JsonLines())
        handlers.append(written)
    if verbose:
        shown = logging.StreamHandler()
        shown.setFormatter(logging.Formatter("%(asctime)s %(message)s", "%H:%M:%S"))
        handlers.append(shown)
    before, level, silenced = list(log.handlers), log.level, logging.root.manager.disable
    # What other libraries say is for nobody to read.
    silent = logging.NullHandler()
    try:
        logging.root.addHandler(silent)
        logging.disable(logging.NOTSET)
        for one in handlers:
            log.addHandler(one)
        if handlers:
            log.setLevel(logging.INFO)
            log.propagate = False
        yield
    finally:
        logging.disable(silenced)
        logging.root.removeHandler(silent)
        log.setLevel(level)
        for one in handlers:
            if one not in before:
                log.removeHandler(one)
            one.close()
