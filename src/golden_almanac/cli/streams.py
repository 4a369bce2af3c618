"""The two streams: everything that a command says goes through here.

Text of the data is made visible before it is shown. A stream that is closed, full or cut, or that cannot hold a letter,
ends a command in an orderly way, never in a traceback.
"""

from __future__ import annotations

import codecs
import errno
import os
import sys
import unicodedata
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any, NoReturn

from ..support.one_thread import start_alone

#: What stands for letters that a stream cannot hold; others lose their accents, or become a question mark.
_PLAIN = {
    "\u2212": "-", "\u2013": "-", "\u2014": "-", "\u00b7": ".", "\u2026": "...", "\u201c": '"', "\u201d": '"',
    "\u201e": '"', "\u2018": "'", "\u2019": "'", "\u00a0": " ", "\u202f": " ", "\u00d7": "x", "\u00f7": "/",
    "\u2588": "#", "\u2591": ".", "\u20ac": "EUR", "\u00a3": "GBP", "\u00df": "ss", "\u2265": ">=", "\u2264": "<=",
    **dict(zip("▁▂▃▄▅▆▇", "__--==#", strict=True)),
}  # fmt: skip
_HANDLER = "golden-almanac"
#: How the command that runs was asked to speak.
_manner = {"quiet": False, "verbose": False}
#: What a shell says of a program whose reader has gone (128 + SIGPIPE).
CUT = 141


def _replaced(problem: UnicodeError) -> tuple[str, int]:
    if not isinstance(problem, UnicodeEncodeError):
        raise problem
    made = []
    for letter in problem.object[problem.start : problem.end]:
        plain = _PLAIN.get(letter) or unicodedata.normalize("NFKD", letter).encode("ascii", "ignore").decode("ascii")
        made.append(plain or "?")
    told = "".join(made)
    try:
        told.encode(problem.encoding)
    except (UnicodeError, LookupError):
        told = "?"
    return told, problem.end


def prepare() -> None:
    """Make both streams fit to be written to, and keep libraries from speaking on them."""
    import logging
    import warnings

    speak(quiet=False, verbose=False)
    codecs.register_error(_HANDLER, _replaced)
    for name in ("stdout", "stderr"):
        stream: Any = getattr(sys, name)
        if stream is None:
            # The stream was closed by whoever called: what is said there is said to nobody.
            setattr(sys, name, open(os.devnull, "w", encoding="utf-8"))  # noqa: SIM115
        elif hasattr(stream, "reconfigure"):
            stream.reconfigure(errors=_HANDLER)
    # What libraries warn of (a font without a letter, a folder they cannot write to) is no reader's business.
    warnings.simplefilter("ignore")
    logging.disable(logging.CRITICAL)
    start_alone()
    # Nothing we write bears a time; libraries would read this one, and stumble where it is none.
    os.environ.pop("SOURCE_DATE_EPOCH", None)


class Gone(Exception):
    """Whoever read standard output has left. No OSError, since libraries have ways of their own with those."""


@contextmanager
def reaching() -> Iterator[None]:
    """Inside, a reader that has left is noticed as such."""
    try:
        yield
    except BrokenPipeError as problem:
        raise Gone from problem


def say(text: object = "") -> None:
    """A line on standard output."""
    from ..support.printable import visible

    with reaching():
        sys.stdout.write(visible(str(text)) + "\n")


def say_bytes(data: bytes) -> None:
    """Bytes on standard output as they are, and nothing else there."""
    stream = getattr(sys.stdout, "buffer", None)
    if stream is None:
        sys.stdout.write(data.decode("utf-8"))
        return
    with reaching():
        sys.stdout.flush()
        stream.write(data)
        stream.flush()


def tell(text: object) -> None:
    """A line on standard error beside the result, but where the caller wants quiet; where that cannot be written to,
    the result still counts."""
    if not _manner["quiet"]:
        complain(text)


def complain(text: object) -> None:
    """A line on standard error that is said in any case: what went wrong."""

    from ..support.printable import visible

    _to_error(visible(str(text)) + "\n")


def speak(*, quiet: bool, verbose: bool) -> None:
    """Say nothing beside the result, or every step as a line of its own."""
    _manner.update(quiet=quiet, verbose=verbose)


def is_quiet() -> bool:
    return _manner["quiet"]


def is_verbose() -> bool:
    return _manner["verbose"]


def overwrite(text: str) -> None:
    """A line of progress, in place of the one before."""

    from ..support.printable import visible

    _to_error(f"\r\x1b[2K{visible(text)}" if text else "\r\x1b[2K")


def _to_error(text: str) -> None:
    try:
        sys.stderr.write(text)
        sys.stderr.flush()
    except (OSError, ValueError):
        return


def leave(status: int) -> NoReturn:
    """End with a status, or with that of an output that could not be written."""
    try:
        sys.stdout.flush()
    except (OSError, ValueError) as problem:
        status = lost(problem)
    raise SystemExit(status)


def is_lost(problem: BaseException) -> bool:
    """Whether an error is that of a stream: it names no file, and its number is one that streams give."""
    broken = (errno.EPIPE, errno.ENOSPC, errno.EIO, errno.EBADF, errno.ESHUTDOWN, errno.EFBIG, errno.EDQUOT)
    named = isinstance(problem, OSError) and problem.filename is None and problem.errno in broken
    return named or isinstance(problem, Gone)


def lost(problem: BaseException) -> int:
    """The status where standard output could not be written: quietly where its reader has gone."""
    gone = isinstance(problem, Gone) or (
        isinstance(problem, OSError) and problem.errno in (errno.EPIPE, errno.ESHUTDOWN, errno.EINVAL)
    )
    try:
        # What is still in the buffer must not be tried again when the interpreter ends.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
    except (OSError, ValueError):
        sys.stdout = open(os.devnull, "w", encoding="utf-8")  # noqa: SIM115
    if gone:
        return CUT
    why = f" ({problem.strerror})" if isinstance(problem, OSError) and problem.strerror else ""
    complain(f"standard output: it cannot be written{why}. Make room, or send it elsewhere.")
    return 2
