"""Files as relations: which reader a name asks for, and the text that DuckDB reads it by.

Nothing is loaded here; a relation is read when it is queried.
"""

from __future__ import annotations

import contextlib
import shutil
import sys
import tempfile
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from marvex.core.errors import MarvexError, did_you_mean

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
    is_text: bool

    @property
    def is_small(self) -> bool:
        """Whether numbering its rows costs nothing that would be noticed."""
        return self.path.stat().st_size < SMALL

    @property
    def first_row(self) -> int:
        return 2 if self.is_text else 1

    @property
    def quoted(self) -> str:
        """The path within SQL."""
        return quoted_text(str(self.path))

    @property
    def description(self) -> str:
        """The query whose answer says how the file is laid out."""
        if not self.is_text:
            return f"SELECT * FROM read_parquet({self.quoted}) LIMIT 0"
        return (
            f"SELECT Delimiter, SkipRows, list_transform(Columns, lambda c: c.name) "
            f"FROM sniff_csv({self.quoted}, all_varchar = true, header = true)"
        )

    def relation(self, delimiter: str, skipped: int, names: Sequence[str]) -> str:
        """The table function that reads it, laid out so; all columns of a text file are text."""
        if not self.is_text:
            return f"read_parquet({self.quoted})"
        columns = ", ".join(f"{quoted_text(name)}: 'VARCHAR'" for name in names)
        return (
            f"read_csv({self.quoted}, auto_detect = false, header = true, delim = {quoted_text(delimiter)}, "
            f"quote = '\"', escape = '\"', skip = {skipped}, nullstr = '', columns = {{{columns}}})"
        )


@contextlib.contextmanager
def opened(source: str) -> Iterator[SourceFile]:
    """The source as a file, standard input kept in a temporary one for as long as it is needed."""
    if source != STANDARD_INPUT:
        yield _checked(source)
        return
    with tempfile.TemporaryDirectory(prefix="marvex-") as folder:
        yield _from_standard_input(Path(folder))


def quoted_text(text: str) -> str:
    """A value within SQL, where it cannot be bound."""
    return "'" + text.replace("'", "''") + "'"


def quoted_name(name: str) -> str:
    """A column's name within SQL."""
    return '"' + name.replace('"', '""') + '"'


def _checked(source: str) -> SourceFile:
    path = Path(source)
    if not path.exists():
        raise MarvexError(f"there is no file '{source}'", _files_like(path))
    if path.is_dir():
        raise MarvexError(f"'{source}' is a folder", "Name a file in it.")
    suffixes = [suffix.lower() for suffix in path.suffixes]
    suffix = suffixes[-2] if suffixes[-1:] == [".gz"] and len(suffixes) > 1 else "".join(suffixes[-1:])
    if suffix not in READABLE:
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
    return SourceFile(path.name, path, suffix in DELIMITED)


def _files_like(path: Path) -> str:
    folder = path.parent
    names = [one.name for one in folder.iterdir() if one.is_file()] if folder.is_dir() else []
    return did_you_mean(path.name, names, "Check the name and the folder.")


def _from_standard_input(folder: Path) -> SourceFile:
    stream = sys.stdin.buffer
    first = stream.read(2)
    if not first:
        raise MarvexError("standard input is empty", "Pipe a CSV into the command.")
    path = folder / ("input.csv.gz" if first == GZIP_MARK else "input.csv")
    with path.open("wb") as copy:
        copy.write(first)
        shutil.copyfileobj(stream, copy)
    return SourceFile("standard input", path, is_text=True)
