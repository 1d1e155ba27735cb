"""Files as relations: which reader a name asks for, and the text that DuckDB reads it by.

A plain table in a text file, or a Parquet file, is read where it lies. A workbook, a list of
objects, or a sheet saved as text is first made tidy, and then read as the same kind of table.
"""

from __future__ import annotations

import contextlib
import csv
import gzip
import json
import shutil
import sys
import tempfile
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from marvex.core.errors import Mistake, did_you_mean, setting
from marvex.sources.readers.grid import grid_of, letter_of, text_of
from marvex.sources.readers.kinds import DELIMITED, OBJECTS, READABLE, WORKBOOKS, kind_of
from marvex.sources.readers.layout import Layout, distinct, is_plain_table, is_total, layout_of

STANDARD_INPUT = "-"
SMALL = 16_000_000  # bytes
BUFFER = 8_000_000  # bytes: a sample of a long file needs no more, and all of it is read as fast
ENOUGH_ROWS = 1_000  # to tell what the columns are
ROWS_LOOKED_AT = 200  # of a sheet: what they do not show, its columns do
GZIP_MARK = b"\x1f\x8b"
ROW_COLUMN = "\u2060row"  # of a table that was made tidy: each row's number in the source


@dataclass(frozen=True, slots=True, kw_only=True)
class Wanted:
    """What a call says of the form of one source."""

    source: str
    sheet: str | None = None
    cells: str | None = None
    named: frozenset[str] = frozenset()  # headings and names that options name
    keep_totals: bool = False
    numbers: str = "auto"


@dataclass(frozen=True, slots=True, kw_only=True)
class SourceFile:
    """A file to be read, and what it is called in messages and on pictures.

    `letters` are the columns of a sheet, in step with its headings; `said` is what was left out on
    the way. Where `columns` is given, they hold all cells already, as arrays of numbers or of texts.
    """

    name: str
    path: Path
    layout: Layout | None = None  # None where the file itself says how it is laid out
    sheet: str | None = None
    letters: tuple[str, ...] = ()
    is_numbered: bool = False  # whether it holds each row's number in the source
    said: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    columns: tuple[Any, ...] | None = None

    @property
    def is_small(self) -> bool:
        """Whether numbering its rows costs nothing that would be noticed."""
        return self.path.stat().st_size < SMALL

    @property
    def row_column(self) -> str | None:
        return ROW_COLUMN if self.is_numbered else None

    @property
    def first_rows(self) -> Sequence[Sequence[str | None]]:
        """The first rows, where telling how the file is laid out has shown enough of them."""
        if self.layout is None or self.is_numbered or len(self.layout.first) <= ENOUGH_ROWS:
            return ()
        rows = self.layout.first[1 : ENOUGH_ROWS + 1]
        if any(len(row) != len(self.layout.headings) for row in rows):
            return ()
        return [[cell or None for cell in row] for row in rows]

    def row_of(self, number: int) -> int:
        """The row of the source, as a spreadsheet counts, of a row by the number that the engine knows."""
        return number if self.is_numbered or self.layout is None else number + 1

    def place(self, row: int, column: str) -> str:
        """Where a cell is, as a message says it."""
        row = self.row_of(row)
        if self.letters and self.layout:
            letter = self.letters[self.layout.headings.index(column)]
            sheet = f", sheet '{self.sheet}'" if self.sheet else ""
            return f"{self.name}{sheet}, cell {letter}{row}"
        return f"{self.name}, row {row}, column {column}"

    def relation(self) -> str:
        """The table function that reads it; all columns of a text file are text."""
        path = quoted_text(str(self.path))
        if self.layout is None:
            return f"read_parquet({path})"
        headings = (*self.layout.headings, *([ROW_COLUMN] if self.is_numbered else []))
        columns = ", ".join(f"{quoted_text(name)}: 'VARCHAR'" for name in headings)
        return (
            f"read_csv({path}, auto_detect = false, header = true, "
            f"delim = {quoted_text(self.layout.delimiter)}, quote = '\"', escape = '\"', nullstr = '', "
            f"buffer_size = {BUFFER}, columns = {{{columns}}})"
        )


def quoted_text(text: str) -> str:
    """A value within SQL, where it cannot be bound."""
    return "'" + text.replace("'", "''") + "'"


def quoted_name(name: str) -> str:
    """A column's name within SQL."""
    return '"' + name.replace('"', '""') + '"'


@contextlib.contextmanager
def opened(wanted: Wanted) -> Iterator[SourceFile]:
    """The source as a file; what cannot be read where it lies is put into a temporary one."""
    with contextlib.ExitStack() as stack:

        def spare_folder() -> Path:
            return Path(stack.enter_context(tempfile.TemporaryDirectory(prefix="marvex-")))

        if wanted.source == STANDARD_INPUT:
            name, path = "standard input", _from_standard_input(spare_folder())
        else:
            path = _checked(wanted.source)
            name = path.name
        kind = kind_of(path)
        if kind not in WORKBOOKS and wanted.sheet:
            raise Mistake(
                f"{setting('sheet')} {wanted.sheet}: {name} is no workbook", f"Leave {setting('sheet')} out."
            )
        if kind == ".parquet":
            yield SourceFile(name=name, path=path)
        elif kind in DELIMITED:
            yield _text_file(path, name, wanted, spare_folder)
        elif kind in OBJECTS:
            headings, rows = _objects(path, name, kind)
            yield _written_tidy(
                name, None, headings, ((place, row) for place, row in enumerate(rows, 1)), spare_folder()
            )
        else:
            yield _workbook(path, name, wanted, spare_folder())


def _text_file(path: Path, name: str, wanted: Wanted, spare_folder: Callable[[], Path]) -> SourceFile:
    layout = layout_of(path, name)
    if not layout.encoding.startswith("utf-8"):
        path = _as_utf8(path, layout.encoding, spare_folder())
    if wanted.cells is None and (path.stat().st_size > SMALL or is_plain_table(layout)):
        return SourceFile(name=name, path=path, layout=layout)
    with (
        gzip.open(path, "rt", encoding="utf-8-sig", newline="")
        if path.suffix == ".gz"
        else path.open(encoding="utf-8-sig", newline="") as file
    ):
        rows = list(csv.reader(file, delimiter=layout.delimiter))
    return _tidied(name, None, rows, wanted, spare_folder(), is_text=True)


def _workbook(path: Path, name: str, wanted: Wanted, folder: Path) -> SourceFile:
    from marvex.sources.readers.sheets import columns_of, sheet_of

    title, sheet = sheet_of(path, name, wanted.sheet)
    first = tuple(tuple(text_of(value) for value in row) for row in sheet.first(ROWS_LOOKED_AT))
    if wanted.cells is None and first:
        layout = Layout(encoding="utf-8", delimiter=",", headings=distinct(first[0]), first=first)
        if is_plain_table(layout):
            columns = columns_of(sheet)
            if not any(is_total(text) for texts in columns.texts for text in texts):
                letters = tuple(letter_of(place) for place in range(len(layout.headings)))
                return SourceFile(
                    name=name, path=path, layout=layout, sheet=title, letters=letters, columns=columns.arrays
                )
    return _tidied(name, title, sheet.rows(), wanted, folder)


def _tidied(
    name: str,
    sheet: str | None,
    rows: Sequence[Sequence[Any]],
    wanted: Wanted,
    folder: Path,
    is_text: bool = False,
) -> SourceFile:
    from marvex.sources.readers.tidy import tidy

    table = tidy(grid_of(rows, wanted.cells), name, wanted.named, wanted.keep_totals, is_text, wanted.numbers)
    numbered = ((line.number, line.cells) for line in table.lines)
    return _written_tidy(name, sheet, table.headings, numbered, folder, table.letters, table.said, table.cautions)


def _written_tidy(
    name: str,
    sheet: str | None,
    headings: Sequence[str],
    rows: Iterable[tuple[int, Sequence[str]]],
    folder: Path,
    letters: tuple[str, ...] = (),
    said: tuple[str, ...] = (),
    cautions: tuple[str, ...] = (),
) -> SourceFile:
    """The tidy table as a file, each row with its number in the source where its columns have letters."""
    path = folder / "tidy.csv"
    with path.open("w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file, lineterminator="\n", quoting=csv.QUOTE_ALL)
        writer.writerow([*headings, *([ROW_COLUMN] if letters else [])])
        for number, cells in rows:
            writer.writerow([*cells, *([number] if letters else [])])
    return SourceFile(
        name=name,
        path=path,
        layout=Layout(encoding="utf-8", delimiter=",", headings=tuple(headings)),
        sheet=sheet,
        letters=letters,
        is_numbered=bool(letters),
        said=said,
        cautions=cautions,
    )


def _objects(path: Path, name: str, kind: str) -> tuple[list[str], list[list[str]]]:
    """A list of objects, or one object a line, as headings and rows; every figure keeps its digits."""
    text = gzip.decompress(path.read_bytes()) if path.suffix == ".gz" else path.read_bytes()
    decoder: Any = {"parse_float": str, "parse_int": str}
    try:
        if kind == ".jsonl":
            lines = text.decode("utf-8-sig").splitlines()
            records = [json.loads(line, **decoder) for line in lines if line.strip()]
        else:
            records = json.loads(text.decode("utf-8-sig"), **decoder)
    except (UnicodeDecodeError, json.JSONDecodeError) as problem:
        raise Mistake(f"{name} is not JSON: {problem}", "Give a list of objects, or one object a line.") from problem
    if not isinstance(records, list) or not all(isinstance(record, dict) for record in records):
        raise Mistake(f"{name} is not a list of objects", "Give [{…}, {…}], or one object a line as .jsonl.")
    headings = list(dict.fromkeys(key for record in records for key in record))
    if not headings:
        raise Mistake(f"{name} is empty", "Give a list of objects with rows of data.")
    return headings, [[_json_text(record.get(key)) for key in headings] for record in records]


def _json_text(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return str(value).lower()
    return value if isinstance(value, str) else json.dumps(value)


def _as_utf8(path: Path, encoding: str, folder: Path) -> Path:
    copy = folder / "input.csv"
    opening = gzip.open if path.suffix == ".gz" else open
    with (
        opening(path, "rt", encoding=encoding, errors="replace", newline="") as old,
        copy.open("w", encoding="utf-8", newline="") as new,
    ):
        shutil.copyfileobj(old, new)
    return copy


def _checked(source: str) -> Path:
    path = Path(source)
    if not path.exists():
        raise Mistake(f"there is no file '{source}'", _files_like(path))
    if path.is_dir():
        raise Mistake(f"'{source}' is a folder", "Name a file in it.")
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


def _from_standard_input(folder: Path) -> Path:
    stream = sys.stdin.buffer
    first = stream.read(2)
    if not first:
        raise Mistake("standard input is empty", "Pipe a CSV into the command.")
    path = folder / ("input.csv.gz" if first == GZIP_MARK else "input.csv")
    with path.open("wb") as copy:
        copy.write(first)
        shutil.copyfileobj(stream, copy)
    return path
