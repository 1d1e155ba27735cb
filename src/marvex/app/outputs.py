"""Files that are written all together or not at all."""

from __future__ import annotations

import contextlib
import os
import signal
import threading
from collections.abc import Iterable, Iterator
from pathlib import Path

from marvex.core.errors import Mistake, listed, setting
from marvex.request.files_named import files_named
from marvex.request.request import Request
from marvex.sources.readers.places import paths_of


class Outputs:
    """What a command is about to write; nothing is until `write`."""

    def __init__(self) -> None:
        self._files: dict[Path, bytes] = {}

    def add(self, path: Path, content: str | bytes) -> None:
        self._files[path] = content.encode() if isinstance(content, str) else content

    @property
    def paths(self) -> tuple[Path, ...]:
        return tuple(self._files)

    def check_kept(self) -> None:
        """Raises Mistake where a file is there already that differs from what would be written."""
        for path, content in self._files.items():
            if path.is_file() and path.read_bytes() != content:
                raise Mistake(
                    f"'{path}' is there already, and differs from what would be written",
                    f"Name another, or write over it with {setting('overwrite')}.",
                )

    def write(self) -> None:
        """Writes the content of each file to the disk first, and puts all into place at the end."""
        drafts: list[_Draft] = []
        try:
            for path, content in self._files.items():
                drafts.append(_Draft(path))
                drafts[-1].fill(content)
            with _held_back():
                for draft in drafts:
                    draft.place()
        except OSError as problem:
            at = drafts[-1].path if drafts else ""
            raise Mistake(f"'{at}' cannot be written: {problem.strerror}", "") from problem
        finally:
            for draft in drafts:
                draft.discard()


@contextlib.contextmanager
def _held_back() -> Iterator[None]:
    """Within it an interruption is too late: what it would stop is done at the end.

    Who waits for interruptions hears of it then; that it would stop the command is forgotten.
    """
    if threading.current_thread() is not threading.main_thread():
        yield
        return
    names = (name for name in ("SIGINT", "SIGTERM", "SIGHUP") if hasattr(signal, name))
    came: list[int] = []
    heard = {one: signal.getsignal(one) for name in names if callable(signal.getsignal(one := getattr(signal, name)))}
    for one in heard:
        signal.signal(one, lambda number, _: came.append(number))
    try:
        yield
    finally:
        for one, handler in heard.items():
            signal.signal(one, handler)
        for number in came:
            with contextlib.suppress(KeyboardInterrupt):
                signal.raise_signal(number)


class _Draft:
    """What is to be a file: without a name until it is put into place, so that one who is killed leaves nothing.

    Where the system has no files without names it has one of its own, beside its place.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self._name = path.parent / f".{path.name[:40]}.{os.urandom(4).hex()}"
        self._handle: int | None = None
        self._is_named = False

    def fill(self, content: bytes) -> None:
        """Writes the content, through to the disk."""
        try:
            self._handle = os.open(self.path.parent, os.O_TMPFILE | os.O_WRONLY, 0o666)
        except (AttributeError, OSError):
            self._handle = os.open(self._name, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o666)
            self._is_named = True
        with os.fdopen(self._handle, "wb", closefd=False) as file:
            file.write(content)
            file.flush()
            os.fsync(self._handle)

    def place(self) -> None:
        """Gives the content the name that it is for, whatever had it before."""
        if not self._is_named:
            folder = os.open(self.path.parent, os.O_RDONLY)
            try:  # that the folder is said by its handle makes this follow the link of the first name
                os.link(f"/proc/self/fd/{self._handle}", self._name.name, dst_dir_fd=folder)
            finally:
                os.close(folder)
            self._is_named = True
        self._name.replace(self.path)
        self._is_named = False

    def discard(self) -> None:
        """Lets go of it; what has not been put into place is gone."""
        with contextlib.suppress(OSError):
            if self._handle is not None:
                os.close(self._handle)
            if self._is_named:
                self._name.unlink(missing_ok=True)


def check_outputs(paths: Iterable[Path], endings: tuple[str, ...], field: str) -> None:
    """Raises Mistake where a file could not be written, before any work is done."""
    seen: set[str] = set()  # on some disks names are the same that differ in letter case
    for path in paths:
        if path.suffix.lower() not in endings:
            raise Mistake(
                f"{setting(field)} {path}: the name must end in {listed(endings)}", "The ending says what is written."
            )
        folder = path.parent
        if not folder.is_dir():
            raise Mistake(f"{setting(field)} {path}: there is no folder '{folder}'", "Make the folder first.")
        if path.is_dir() or not os.access(folder, os.W_OK) or (path.exists() and not os.access(path, os.W_OK)):
            raise Mistake(f"{setting(field)} {path} cannot be written", "Name another file.")
        if str(path.resolve()).casefold() in seen:
            raise Mistake(f"{setting(field)} {path} is named twice", "Name each file once.")
        seen.add(str(path.resolve()).casefold())


def check_request(request: Request, endings: tuple[str, ...], figures: tuple[str, ...] = ()) -> None:
    """Raises Mistake where an output of a request could not be written, or would be one of its own inputs."""
    settings = request.settings
    check_outputs(settings.output, endings, "output")
    check_outputs(settings.figures, figures, "figures")
    inputs = [Path(path) for one in request.sources for path in paths_of(one.path)]
    inputs += map(Path, files_named(settings))
    for field, paths in (("output", settings.output), ("figures", settings.figures)):
        for path in paths:
            if any(_is_same(path, one) for one in inputs):
                raise Mistake(
                    f"{setting(field)} {path} is a file that is read for it, and would be lost", "Name another file."
                )
    for path in settings.output:
        if any(str(path.resolve()).casefold() == str(one.resolve()).casefold() for one in settings.figures):
            raise Mistake(f"{path} is named for {setting('output')} and for {setting('figures')}", "Name two files.")


def _is_same(one: Path, other: Path) -> bool:
    """Whether two paths lead to one file, by whatever links and letter cases; of new ones, by their names."""
    with contextlib.suppress(OSError):
        if one.exists() and other.exists():
            return one.samefile(other)
    return one.resolve() == other.resolve()
