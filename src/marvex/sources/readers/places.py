"""Which files a source names, whether they can be read, and whether they are still the same."""

from __future__ import annotations

import filecmp
import glob
import gzip
import re
import sys
import zlib
from collections.abc import Sequence
from pathlib import Path

from marvex.core.errors import Mistake, did_you_mean
from marvex.sources.readers.kinds import READABLE, kind_of

HIVE = "hive:"  # before a folder of Parquet files, the names of whose folders are columns: year=2026
PATTERN = "glob:"  # before a pattern of several files: a path alone is never one
GZIP_MARK = b"\x1f\x8b"
_ADDRESS = re.compile(r"[A-Za-z][A-Za-z0-9+]*://.*", re.DOTALL)


def is_address(source: str) -> bool:
    """Whether a source is in a database or a cluster, and no file.

    >>> [is_address(one) for one in ("sqlite:///a.db", "sc://127.0.0.1:15002", "glob:*.csv", "C:/a.csv")]
    [True, True, False, False]
    """
    return _ADDRESS.fullmatch(source) is not None


def paths_of(source: str) -> tuple[str, ...]:
    """The files that a source is: one, or all that a pattern behind `glob:` is like, in order of their names."""
    if source.startswith(HIVE):
        folder = Path(source.removeprefix(HIVE))
        if not folder.is_dir():
            raise Mistake(f"'{folder}' is no folder", "Name the folder that the partitions are in.")
        partitions = tuple(sorted(str(path) for path in folder.rglob("*.parquet") if path.is_file()))
        if not partitions:
            raise Mistake(f"'{folder}' has no Parquet files", "Name the folder that the partitions are in.")
        return partitions
    if not source.startswith(PATTERN):
        return (source,)
    pattern = source.removeprefix(PATTERN)
    # A pattern may be absolute, which the one of pathlib may not.
    found = tuple(sorted(path for path in glob.glob(pattern, recursive=True) if Path(path).is_file()))  # noqa: PTH207
    if not found:
        raise Mistake(f"no file is like '{pattern}'", "Check the pattern and the folder; * stands for any text.")
    return found


def check_different(paths: Sequence[str]) -> None:
    """Raises Mistake where a file of rows is there twice, as one that was fetched again ("ledger (1).csv")."""
    # Several of Parquet may have no rows.
    if same := twins([(Path(path).name, Path(path)) for path in paths if kind_of(Path(path)) != ".parquet"]):
        raise Mistake(f"{same[0]} and {same[1]} hold the same, and would count twice", "Leave one of them out.")


def twins(named: Sequence[tuple[str, Path]]) -> tuple[str, str] | None:
    """Two files, or sheets as files, that hold the same; each by what it is called."""
    sizes: dict[int, list[tuple[str, Path]]] = {}
    for name, path in named:
        alike = sizes.setdefault(path.stat().st_size, [])
        twin = next((its for its, one in alike if filecmp.cmp(one, path, shallow=False)), None)
        if twin is not None:
            return twin, name
        alike.append((name, path))
    return None


def stamp_of(path: Path) -> tuple[int, int, int]:
    """What tells whether a file is still the same: which it is, its size, when it was last written; zeros if gone."""
    try:
        found = path.stat()
    except OSError:
        return 0, 0, 0
    return found.st_ino, found.st_size, found.st_mtime_ns


def checked(source: str) -> Path:
    path = Path(source)
    if not path.exists():
        raise Mistake(f"there is no file '{source}'", _files_like(path))
    if path.is_dir():
        raise Mistake(f"'{source}' is a folder", f"Name a file in it, or {HIVE}{source} for partitions.")
    if kind_of(path) not in READABLE:
        raise Mistake(
            f"'{source}' is of a kind that cannot be read",
            f"Marvex reads {', '.join(READABLE)}, plain or gzipped.",
        )
    try:
        with path.open("rb") as file:
            if not file.read(1):
                raise Mistake(f"{path.name} is empty", "Give a file with a heading row and rows of data.")
    except OSError as problem:
        raise Mistake(f"'{source}' cannot be read: {problem.strerror}", "") from problem
    return path


def _files_like(path: Path) -> str:
    folder = path.parent
    names = [one.name for one in folder.iterdir() if one.is_file()] if folder.is_dir() else []
    return did_you_mean(path.name, names, "Check the name and the folder.")


def from_standard_input(folder: Path) -> Path:
    import shutil

    stream = sys.stdin.buffer
    first = stream.read(2)
    if not first:
        raise Mistake("standard input is empty", "Pipe a CSV into the command.")
    path = folder / ("input.csv.gz" if first == GZIP_MARK else "input.csv")
    with path.open("wb") as copy:
        copy.write(first)
        shutil.copyfileobj(stream, copy)
    return path


def unpacked(path: Path, folder: Path) -> Path:
    """A gzipped file of a kind that is not read through gzip, unpacked."""
    import shutil

    plain = folder / path.with_suffix("").name
    try:
        with gzip.open(path) as packed, plain.open("wb") as file:
            shutil.copyfileobj(packed, file)
    except (OSError, EOFError, zlib.error) as problem:
        raise damaged(path.name) from problem
    return plain


def damaged(name: str) -> Mistake:
    """What is to be said of a packed file that is cut, or not what its checksum says."""
    return Mistake(f"{name} is damaged: it cannot be unpacked whole", "Fetch or pack the file again.")
