"""A folder of files put in place as one: all of an edition, or nothing of it.

The whole folder is made beside the one it takes the place of, with what else stands there, and the two change places
in one step of the file system. Whatever ends the program before leaves the folder as it was.
"""

from __future__ import annotations

import os
import shutil
import sys
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

from ..support.errors import OutputError
from . import files

#: Folders with more in them are not made anew for the sake of a few files: those are put in place one by one.
_MOST_KEPT = 5_000
#: How a folder in the making is called; the number is that of the process that makes it.
_MAKING = ".almanac-folder-"

Made = Sequence[tuple[Path, bytes]]


def put_folder(root: Path, made: Made, *, replace: bool) -> list[Path]:
    """Write files (paths within `root`, and their content) as a whole. Raises OutputError; what was there stays then.

    Without `replace` a file that this program did not make is not written over. A link inside the folder is not
    followed: it could lead anywhere.
    """
    files.check_folder(root)
    inside = Path(os.path.realpath(root))
    for path, content in made:
        _no_link(inside, path)
        if not replace:
            files.refuse_to_overwrite(inside / path, content)
    if inside.is_dir() and not _may_change_places(inside):
        files.write_all([(inside / path, content) for path, content in made])
    else:
        with files.refusals(root):
            _swapped(inside, made)
    return [root / path for path, _ in made]


def _no_link(root: Path, path: Path) -> None:
    at = root
    for part in path.parts[:-1]:
        at = at / part
        if at.is_symlink():
            raise OutputError(
                str(at), "this is a link, which could lead out of the folder", "Remove it, or choose another folder."
            )


def _may_change_places(root: Path) -> bool:
    """Whether a folder can be made anew as a whole: no mount, nobody's working folder, not too much in it."""
    here = Path(os.path.realpath(os.getcwd()))
    if os.path.ismount(root) or here == root or root in here.parents or not os.access(root.parent, os.W_OK):
        return False
    count = 0
    for _, folders, names in os.walk(root):
        count += len(folders) + len(names)
        if count > _MOST_KEPT:
            return False
    return True


def _swapped(root: Path, made: Made) -> None:
    created = _parents(root.parent)
    _clear_up(root.parent)
    staging = root.parent / f"{_MAKING}{os.getpid()}"
    try:
        with _removed(staging):
            staging.mkdir()
            if root.is_dir():
                shutil.copystat(root, staging)
                _keep(root, staging, {path for path, _ in made})
            for path, content in made:
                (staging / path).parent.mkdir(parents=True, exist_ok=True)
                files.write_new(staging / path, content, files.mode_of(root / path))
            files.synced(staging)
            _in_place(staging, root)
            files.synced(root.parent)
    except BaseException:
        for folder in created:
            # Only what was made for this, and only while it is empty.
            if folder.is_dir() and not any(folder.iterdir()):
                folder.rmdir()
        raise


def _parents(folder: Path) -> list[Path]:
    """The folders above that had to be made, the innermost first."""
    missing = []
    while not folder.exists():
        missing.append(folder)
        folder = folder.parent
    for one in reversed(missing):
        one.mkdir(exist_ok=True)
    return missing


@contextmanager
def _removed(folder: Path) -> Iterator[None]:
    try:
        yield
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def _keep(root: Path, staging: Path, renewed: set[Path]) -> None:
    """What else stands in the folder, by another name for the same files where the file system can do that."""
    for at, folders, names in os.walk(root):
        here = Path(at).relative_to(root)
        for name in folders:
            source, target = root / here / name, staging / here / name
            if source.is_symlink():
                os.symlink(os.readlink(source), target)
            else:
                target.mkdir(exist_ok=True)
                shutil.copystat(source, target)
        for name in names:
            if here / name in renewed:
                continue
            source, target = root / here / name, staging / here / name
            try:
                os.link(source, target, follow_symlinks=False)
            except (OSError, NotImplementedError):
                shutil.copy2(source, target, follow_symlinks=False)


def _in_place(staging: Path, root: Path) -> None:
    """The new folder where the old one is, if there is one: the two change places, and the old one goes."""
    if not root.exists():
        os.rename(staging, root)
        return
    if _exchanged(staging, root):
        return
    # Not in one step here; the old one stays at hand until the new one is there.
    old = staging.with_name(f"{staging.name}-old")
    os.rename(root, old)
    try:
        os.rename(staging, root)
    except BaseException:
        os.rename(old, root)
        raise
    shutil.rmtree(old, ignore_errors=True)


def _exchanged(path: Path, other: Path) -> bool:
    """Whether the system let two folders change places in one step."""
    import ctypes

    try:
        system = ctypes.CDLL(None, use_errno=True)
        a, b = os.fsencode(path), os.fsencode(other)
        if sys.platform == "darwin":
            return bool(system.renamex_np(a, b, 2) == 0)
        # AT_FDCWD, and RENAME_EXCHANGE of renameat2(2).
        return bool(system.renameat2(-100, a, -100, b, 2) == 0)
    except (AttributeError, OSError, TypeError):
        return False


def _clear_up(parent: Path) -> None:
    """Folders in the making whose makers were killed."""
    for left in parent.glob(f"{_MAKING}*"):
        number = left.name.removeprefix(_MAKING).partition("-")[0]
        if number.isdigit() and int(number) != os.getpid() and not _runs(int(number)) and not left.is_symlink():
            shutil.rmtree(left, ignore_errors=True)


def _runs(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except OSError:
        return True
    return True
