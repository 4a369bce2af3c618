"""The prompt of `ask`: questions one after the other, with completion, and a history kept for each source."""

from __future__ import annotations

import hashlib
import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any

from . import screen, shared_options, streams

if TYPE_CHECKING:
    import golden_almanac as ga

_BRIEF = (
    'Ask in English; follow on with "and by vessel?", "only 2024", "why?". "undo" goes back, "keep this" keeps an '
    'answer, "save FILE" writes what was kept (page.html, brief.toml), "yes" agrees to a described measure, "o" takes '
    'the other reading, "quit" leaves.'
)
_LEAVE = frozenset({"quit", "exit", "q", "bye"})


def prompt(talk: ga.Conversation, source: str) -> None:
    """Take questions until the end of the input."""
    console = screen.terminal()
    console.print(screen.text_of(f"{talk.table.name}: {talk.table.rows:,} rows", "bold"))
    if talk.joined:
        console.print(screen.text_of(talk.joined))
    screen.told(console, [_BRIEF, "To begin with:", *(f"  {one}" for one in talk.first_questions())])
    ask = _reader(talk, source)
    while True:
        try:
            text = ask()
        except KeyboardInterrupt:
            # As everywhere: a line is given up, the prompt stays.
            continue
        except EOFError:
            return
        if not text.strip():
            continue
        if text.strip().casefold() in _LEAVE:
            return
        _one(talk, text.strip(), source)


def _one(talk: ga.Conversation, text: str, source: str) -> None:
    import golden_almanac as ga

    from .ask_command import show

    try:
        if talk.offered is not None and text.casefold() in ("yes", "y", "ok"):
            streams.say(f"{talk.accept().name} can be asked for now.")
        elif text.casefold().startswith("save "):
            _save(talk, text[5:].strip(), source)
        else:
            last = talk.last
            if text.casefold() in ("o", "other") and last is not None and last.alternatives:
                # The other way in which the question before could have been meant.
                text = last.alternatives[0]
            answer = talk.ask(text)
            if answer.found is None:
                streams.say(str(answer.summary()).replace("\n\n", " "))
            else:
                show(answer, source, talk.joins)
    except ga.AlmanacError as problem:
        streams.say(str(problem))
    streams.say()


def _save(talk: ga.Conversation, name: str, source: str) -> None:
    """What was kept, as a report in the format of the file's ending, or as a brief."""
    from ..export.files import check_target, refuse_to_overwrite, write_all

    if not name.casefold().endswith(".toml"):
        targets = shared_options.check_outputs([name], source)
        shared_options.write_outputs(talk.report(), targets)
        return
    target = Path(name)
    check_target(target, source, (".toml",), replace=False)
    here = os.path.relpath(Path(source).resolve(), target.resolve().parent)
    content = talk.brief(Path(here).as_posix()).encode()
    refuse_to_overwrite(target, content)
    write_all([(target, content)])
    streams.tell(f"wrote {target}")


def _reader(talk: ga.Conversation, source: str) -> Any:
    """A function that gives the next line: with completion and history on a terminal, plain lines elsewhere."""
    if not (sys.stdin.isatty() and sys.stdout.isatty()):
        return lambda: _line()
    from prompt_toolkit import PromptSession
    from prompt_toolkit.completion import WordCompleter
    from prompt_toolkit.history import FileHistory, InMemoryHistory

    kept = history_file(source)
    history = InMemoryHistory() if kept is None else FileHistory(str(kept))
    session: Any = PromptSession(
        history=history, completer=WordCompleter(words(talk), ignore_case=True, match_middle=False, sentence=False)
    )
    return lambda: session.prompt("? ")


def _line() -> str:
    try:
        text = sys.stdin.readline()
    except OSError:
        # Nothing can be read there: nobody asks.
        text = ""
    if not text:
        raise EOFError
    return text


def words(talk: ga.Conversation) -> list[str]:
    """What is completed: names of columns, labels, commands."""
    from ..aggregation.measure_names import spoken
    from ..tables import Role

    named = [spoken(column.name) for column in talk.table.columns]
    labels = [
        label
        for column in talk.table.with_role(Role.DIMENSION)
        if column.type == "text" and column.distinct <= 2_000
        for label in talk.table.labels(column.name)
        if label is not None
    ]
    return sorted({*named, *labels, "undo", "keep this", "save", "quit", "why", "by month"})


def history_file(source: str) -> Path | None:
    """The history of a source, in the user's folder of states, for nobody else to read; None where that cannot be."""
    base = os.environ.get("XDG_STATE_HOME") or (os.environ.get("LOCALAPPDATA") if os.name == "nt" else None)
    home = Path(base) if base else Path.home() / ".local" / "state"
    named = hashlib.sha256(str(Path(source).resolve()).encode()).hexdigest()[:16]
    folder = home / "golden-almanac" / "questions"
    try:
        folder.mkdir(parents=True, exist_ok=True)
        kept = folder / named
        kept.touch(mode=0o600, exist_ok=True)
    except OSError:
        return None
    return kept
