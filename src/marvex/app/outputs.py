"""Files that are written all together or not at all."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Iterable
from pathlib import Path

from marvex.core.errors import Mistake, listed, setting


class Outputs:
    """What a command is about to write; nothing is until `write`."""

    def __init__(self) -> None:
        self._files: dict[Path, bytes] = {}

    def add(self, path: Path, content: str | bytes) -> None:
        self._files[path] = content.encode() if isinstance(content, str) else content

    @property
    def paths(self) -> tuple[Path, ...]:
        return tuple(self._files)

    def write(self) -> None:
        """Writes each file beside its place first, and moves all into place at the end."""
        written: list[tuple[str, Path]] = []
        try:
            for path, content in self._files.items():
                written.append((_beside(path, content), path))
            for draft, path in written:
                os.replace(draft, path)  # noqa: PTH105
        except OSError as problem:
            raise Mistake(f"'{path}' cannot be written: {problem.strerror}", "") from problem
        finally:
            for draft, _ in written:
                with contextlib.suppress(OSError):
                    Path(draft).unlink(missing_ok=True)


def check_outputs(paths: Iterable[Path], endings: tuple[str, ...], field: str) -> None:
    """Raises Mistake where a file could not be written, before any work is done."""
    seen: set[Path] = set()
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
        if path.resolve() in seen:
            raise Mistake(f"{setting(field)} {path} is named twice", "Name each file once.")
        seen.add(path.resolve())


def _beside(path: Path, content: bytes) -> str:
    import tempfile

    handle, draft = tempfile.mkstemp(prefix=f".{path.name}.", dir=path.parent)
    with os.fdopen(handle, "wb") as file:
        file.write(content)
    umask = os.umask(0)
    os.umask(umask)
    Path(draft).chmod(0o666 & ~umask)
    return draft
