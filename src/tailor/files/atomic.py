"""Writing that cannot lose what was there: whole file or no change, with the copy before it kept."""

from __future__ import annotations

import contextlib
import fcntl
import hashlib
import os
import stat
from collections.abc import Callable, Iterator, Mapping
from pathlib import Path

from tailor.core.errors import DiskError
from tailor.core.incoming import said

NEW = 0o666  # what may be done with a new file, less what the maker's umask takes away


def previous(path: Path) -> Path:
    """Where the copy before the last save is kept."""
    return path.with_name(path.name + "~")


def write(path: Path, content: bytes, keep_previous: bool = False) -> None:
    """Put content at path. At every moment path is either the old file or the new one, whole and readable.

    A file that was there keeps what may be done with it, and a link its place. Raises DiskError where it cannot be
    written.
    """
    with _told(path):
        if not path.name or path.is_dir():
            raise IsADirectoryError(None, "it is a folder")
        target = Path(os.path.realpath(path))
        with _part(target) as part:
            _fill(part, content, _mode(target))
            if keep_previous and target.exists():
                _keep(target)
            os.replace(part, target)
        _sync_folder(target.parent)


@contextlib.contextmanager
def gathered(contents: Mapping[Path, bytes]) -> Iterator[Callable[[], None]]:
    """New contents of several files, whole on the disk; what is yielded puts each in its place, without a pause.

    Raises DiskError where one cannot be written; then none is in its place.
    """
    with contextlib.ExitStack() as stack:
        parts = {}
        for path, content in contents.items():
            stack.enter_context(_told(path))
            parts[path] = stack.enter_context(_part(path))
            _fill(parts[path], content, _mode(path))

        def put() -> None:
            for path, part in parts.items():
                os.replace(part, path)
            for folder in {path.parent for path in parts}:
                _sync_folder(folder)

        yield put


@contextlib.contextmanager
def held(path: Path) -> Iterator[None]:
    """Hold a file that is read, changed and written again, so that another who does so waits; if it is there at all.

    Raises DiskError where it cannot be opened.
    """
    with contextlib.ExitStack() as stack:
        try:
            stack.enter_context(_locked(path, os.O_RDONLY | os.O_NONBLOCK))
        except FileNotFoundError:
            pass  # whoever reads it says so better
        except OSError as error:
            raise DiskError(f"it cannot be opened ({said(error)})", str(path), "see to the file") from None
        yield


def part_of(path: Path) -> Path:
    """Where new content of a file gathers before it takes its place. There is one for each file, used again."""
    return path.with_name(f".tailor-{hashlib.sha256(os.fsencode(path.name)).hexdigest()[:16]}.part")


def sweep(folder: Path) -> None:
    """Take away what writing that was cut short left in a folder, save what is being written now."""
    with contextlib.suppress(OSError):
        for left in {p.with_suffix(".part") for p in (*folder.glob(".tailor-*.part"), *folder.glob(".tailor-*.kept"))}:
            with contextlib.suppress(OSError), _locked(left, os.O_RDWR | os.O_CREAT, wait=False):
                left.with_suffix(".kept").unlink(missing_ok=True)
                left.unlink()


@contextlib.contextmanager
def _told(path: Path) -> Iterator[None]:
    """System errors while a file is written, as one sentence about it."""
    try:
        yield
    except DiskError:
        raise
    except (OSError, ValueError) as error:
        raise DiskError(
            f"it cannot be written ({said(error)})", str(path), "choose another folder or free some room"
        ) from None


@contextlib.contextmanager
def _part(target: Path) -> Iterator[Path]:
    """The place where a file's new content gathers, held until it has taken the file's place, or is given up."""
    part = part_of(target)
    with _locked(part, os.O_RDWR | os.O_CREAT):
        try:
            yield part
        except BaseException:
            with contextlib.suppress(OSError):
                part.unlink()
            raise


@contextlib.contextmanager
def _locked(path: Path, flags: int, wait: bool = True) -> Iterator[None]:
    """Hold a file by a lock that ends with the process. Raises OSError, where it does not wait, if another holds it."""
    while True:
        handle = os.open(path, flags | os.O_CLOEXEC, NEW)
        try:
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | (0 if wait else fcntl.LOCK_NB))
            except OSError:
                if not wait:
                    raise  # another holds it; where this one would wait, the file system knows no locks
            if not _is(path, handle):  # whoever held it put another in its place, or took it away
                continue
            yield
            return
        finally:
            os.close(handle)


def _is(path: Path, handle: int) -> bool:
    """Whether an open file is still the one at a path."""
    try:
        return os.path.samestat(os.stat(path), os.fstat(handle))
    except FileNotFoundError:
        return False


def _mode(target: Path) -> int | None:
    """What may be done with the file that is there; None where there is none."""
    with contextlib.suppress(FileNotFoundError):
        return stat.S_IMODE(target.stat().st_mode)
    return None


def _fill(part: Path, content: bytes, mode: int | None) -> None:
    """Put content into a file, down to the disk. mode: what may be done with it, where that is settled."""
    with open(part, "r+b") as file:
        if mode is not None:
            os.fchmod(file.fileno(), mode)
        file.truncate()
        file.write(content)
        file.flush()
        os.fsync(file.fileno())


def _keep(path: Path) -> None:
    """Give the old file a second name, without touching the first; or copy it, where a file has one name only."""
    kept = part_of(path).with_suffix(".kept")
    kept.unlink(missing_ok=True)
    try:
        os.link(path, kept)
    except OSError:
        kept.touch(0o600)
        _fill(kept, path.read_bytes(), _mode(path))
    os.replace(kept, previous(path))


def _sync_folder(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        with contextlib.suppress(OSError):  # some file systems do not sync folders
            os.fsync(handle)
    finally:
        os.close(handle)
