"""Files as relations: which reader a name asks for, and the text that DuckDB reads it by.

Nothing is loaded here; a relation is read when it is queried.
"""

from __future__ import annotations

import contextlib
import gzip
import shutil
import sys
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from marvex.core.errors import MarvexError, did_you_mean
from marvex.sources.layout import Layout, layout_of

DELIMITED = (".csv", ".tsv", ".txt")
READABLE = (*DELIMITED, ".parquet")
STANDARD_INPUT = "-"
SMALL = 16_000_000  # bytes
GZIP_MARK = b"\x1f\x8b"


@dataclass(frozen=True, slots=True)
class SourceFile:
    """A file to be read, and what it is called in messages and on pictures.

    `first_row` is the number that the first row of data has in the file, as a spreadsheet counts.
    """

    name: str
    path: Path
    layout: Layout | None = None  # None where the file itself says how it is laid out

    @property
    def is_small(self) -> bool:
        """Whether numbering its rows costs nothing that would be noticed."""
        return self.path.stat().st_size < SMALL

    @property
    def first_row(self) -> int:
        return 2 if self.layout else 1

    @property
    def quoted(self) -> str:
        """The path within SQL."""
        return quoted_text(str(self.path))

    def relation(self) -> str:
        """The table function that reads it; all columns of a text file are text."""
        if self.layout is None:
            return f"read_parquet({self.quoted})"
        columns = ", ".join(f"{quoted_text(name)}: 'VARCHAR'" for name in self.layout.headings)
        return (
            f"read_csv({self.quoted}, auto_detect = false, header = true, "
            f"delim = {quoted_text(self.layout.delimiter)}, quote = '\"', escape = '\"', nullstr = '', "
            f"columns = {{{columns}}})"
        )


@contextlib.contextmanager
def opened(source: str) -> Iterator[SourceFile]:
    """The source as a file; what is not UTF-8 on disk is put into a temporary one for as long as needed."""
    with contextlib.ExitStack() as stack:

        def spare_folder() -> Path:
            return Path(stack.enter_context(tempfile.TemporaryDirectory(prefix="marvex-")))

        if source == STANDARD_INPUT:
            name, path = "standard input", _from_standard_input(spare_folder())
        else:
            path = _checked(source)
            name = path.name
        if _kind(path) not in DELIMITED:
            yield SourceFile(name, path)
            return
        layout = layout_of(path, name)
        if not layout.encoding.startswith("utf-8"):
            path = _as_utf8(path, layout.encoding, spare_folder())
        yield SourceFile(name, path, layout)


def _as_utf8(path: Path, encoding: str, folder: Path) -> Path:
    copy = folder / "input.csv"
    opening = gzip.open if path.suffix == ".gz" else open
    with (
        opening(path, "rt", encoding=encoding, errors="replace", newline="") as old,
        copy.open("w", encoding="utf-8", newline="") as new,
    ):
        shutil.copyfileobj(old, new)
    return copy


def _kind(path: Path) -> str:
    """The ending that says what is in the file, `.gz` aside."""
    suffixes = [suffix.lower() for suffix in path.suffixes]
    return suffixes[-2] if suffixes[-1:] == [".gz"] and len(suffixes) > 1 else "".join(suffixes[-1:])


def quoted_text(text: str) -> str:
    """A value within SQL, where it cannot be bound."""
    return "'" + text.replace("'", "''") + "'"


def quoted_name(name: str) -> str:
    """A column's name within SQL."""
    return '"' + name.replace('"', '""') + '"'


def _checked(source: str) -> Path:
    path = Path(source)
    if not path.exists():
        raise MarvexError(f"there is no file '{source}'", _files_like(path))
    if path.is_dir():
        raise MarvexError(f"'{source}' is a folder", "Name a file in it.")
    if _kind(path) not in READABLE:
        raise MarvexError(
            f"'{source}' is of a kind that cannot be read",
            f"Marvex reads {', '.join(READABLE)}, plain or gzipped.",
        )
    try:
        with path.open("rb") as file:
            if not file.read(1):
                raise MarvexError(f"{path.name} is empty", "Give a file with a heading row and rows of data.")
    except OSError as problem:
        raise MarvexError(f"'{source}' cannot be read: {problem.strerror}", "") from problem
    return path


def _files_like(path: Path) -> str:
    folder = path.parent
    names = [one.name for one in folder.iterdir() if one.is_file()] if folder.is_dir() else []
    return did_you_mean(path.name, names, "Check the name and the folder.")


def _from_standard_input(folder: Path) -> Path:
    stream = sys.stdin.buffer
    first = stream.read(2)
    if not first:
        raise MarvexError("standard input is empty", "Pipe a CSV into the command.")
    path = folder / ("input.csv.gz" if first == GZIP_MARK else "input.csv")
    with path.open("wb") as copy:
        copy.write(first)
        shutil.copyfileobj(stream, copy)
    return path
