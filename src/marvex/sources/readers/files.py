"""Files as relations: which reader a name asks for, and the text that DuckDB reads it by.

A plain table in a text file, or a Parquet file, is read where it lies. A workbook, a list of
objects, or a sheet saved as text is first made tidy, and then read as the same kind of table.
"""

from __future__ import annotations

import contextlib
import csv
import glob
import gzip
import sys
import zlib
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from marvex.core.errors import Mistake, did_you_mean, setting
from marvex.core.structure.total_names import is_total_name
from marvex.sources.quoting import quoted_name, quoted_path, quoted_text
from marvex.sources.readers.grid import Grid, grid_of
from marvex.sources.readers.kinds import DELIMITED, OBJECTS, READABLE, WORKBOOKS, kind_of
from marvex.sources.readers.layout import (
    LOOKED_AT,
    Layout,
    damaged,
    distinct,
    has_footer,
    is_plain_table,
    layout_of,
    names_totals,
)
from marvex.sources.readers.objects import objects
from marvex.sources.readers.sheet_table import FoundTable, Wishes
from marvex.sources.readers.store import CLUSTER, Place, Store, is_address

STANDARD_INPUT = "-"
HIVE = "hive:"  # before a folder of Parquet files, the names of whose folders are columns: year=2026
PATTERN = "glob:"  # before a pattern of several files: a path alone is never one
OF_A_PART = 10**11  # rows: what is above it in a row's number says which of several files it is in
SMALL = 16_000_000  # bytes
BUFFER = 8_000_000  # bytes: a sample of a long file needs no more, and all of it is read as fast
ENOUGH_ROWS = 1_000  # to tell what the columns are
ROWS_LOOKED_AT = 200  # of a sheet, to see whether it is a plain table
GZIP_MARK = b"\x1f\x8b"
_FILE = "\u2060file"
ROW_COLUMN = "\u2060row"  # of a table that was made tidy: each row's number in the source


@dataclass(frozen=True, slots=True, kw_only=True)
class Wanted:
    """What a call says of the form of one source."""

    source: str
    sheet: str | None = None
    cells: str | None = None
    wishes: Wishes = field(default_factory=Wishes)  # of the structure of a sheet
    keep_totals: bool = False
    numbers: str = "auto"
    table: str | None = None  # of a database
    query: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class SourceFile:
    """A file to be read, and what it is called in messages and on pictures.

    `letters` are the columns of a sheet, in step with its headings; `said` is what was left out on
    the way.
    """

    name: str
    path: Path
    layout: Layout | None = None  # None where the file itself says how it is laid out
    sheet: str | None = None
    letters: tuple[str, ...] = ()
    is_numbered: bool = False  # whether it holds each row's number in the source
    said: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    found: FoundTable | None = None  # the statement that it was found to be
    kept_totals: tuple[str, ...] = ()  # rows that are totals of others, where those are kept
    titles: tuple[str, ...] = ()  # what stands above its headings
    parts: tuple[SourceFile, ...] = ()  # the files that it is made of, where it is several
    is_hive: bool = False  # the names of its folders say more of each part, year=2026
    store: Store | None = None  # the table of a database or a cluster that it is, and no file

    @property
    def is_small(self) -> bool:
        """Whether numbering its rows costs nothing that would be noticed."""
        return self.store is None and sum(one.path.stat().st_size for one in self.parts or (self,)) < SMALL

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
        if self.parts:
            return self.parts[number // OF_A_PART].row_of(number % OF_A_PART)
        return number if self.is_numbered or self.layout is None else number + 1

    def line(self, number: int) -> str:
        """Which row of which file a row is, as a message says it."""
        if self.store is not None:  # whose rows have no numbers
            return self.name
        one = self.parts[number // OF_A_PART] if self.parts else self
        return f"{one.name}, row {self.row_of(number)}"

    def place(self, number: int, column: str) -> str:
        """Where a cell is, as a message says it."""
        if self.store is not None:
            return f"{self.name}, column {column}"
        if self.parts:
            return self.parts[number // OF_A_PART].place(number % OF_A_PART, column)
        row = self.row_of(number)
        if self.letters and self.layout:
            if column not in self.layout.headings:
                return f"{self.name}, row {row}, {column}"
            letter = self.letters[self.layout.headings.index(column)]
            sheet = f", sheet '{self.sheet}'" if self.sheet else ""
            return f"{self.name}{sheet}, cell {letter}{row}"
        return f"{self.name}, row {row}, column {column}"

    def relation(self) -> str:
        """The table function that reads it; all columns of a text file are text."""
        if self.parts and all(part.layout is None for part in self.parts):
            return self._of_parquet()
        if self.parts:
            return f"({' UNION ALL BY NAME '.join(self._part(place) for place in range(len(self.parts)))})"
        path = quoted_path(str(self.path))
        if self.layout is None:
            # A folder called year=1999 says nothing of what is in a file.
            return f"read_parquet({path}, hive_partitioning = false)"
        headings = (*self.layout.headings, *([ROW_COLUMN] if self.is_numbered else []))
        columns = ", ".join(f"{quoted_text(name)}: 'VARCHAR'" for name in headings)
        return (
            f"read_csv({path}, auto_detect = false, header = true, "
            f"delim = {quoted_text(self.layout.delimiter)}, quote = '\"', escape = '\"', nullstr = '', "
            f"buffer_size = {BUFFER}, hive_partitioning = false, columns = {{{columns}}})"
        )

    def _of_parquet(self) -> str:
        """Several Parquet files, read side by side; each row's number tells which file it is in."""
        paths = ", ".join(quoted_path(str(part.path)) for part in self.parts)
        names = ", ".join(quoted_text(str(part.path)) for part in self.parts)
        file, row = quoted_name(_FILE), "file_row_number"
        number = f"(list_position([{names}], {file}) - 1) * {OF_A_PART} + {row} + 1"
        hive = "true, hive_types_autocast = false" if self.is_hive else "false"
        return (
            f"(SELECT * EXCLUDE ({file}, {row}), {number} AS {quoted_name(ROW_COLUMN)} FROM read_parquet([{paths}], "
            f"hive_partitioning = {hive}, union_by_name = true, filename = {quoted_text(_FILE)}, "
            "file_row_number = true))"
        )

    def _part(self, place: int) -> str:
        """One of several files, its rows numbered so that the number tells which file it is."""
        part, column = self.parts[place], quoted_name(ROW_COLUMN)
        number = f"CAST({column} AS BIGINT)" if part.is_numbered else "row_number() OVER ()"
        others = f"* EXCLUDE ({column})" if part.is_numbered else "*"
        return f"SELECT {others}, {place * OF_A_PART} + {number} AS {column} FROM {part.relation()}"


class Files:
    """The files of a session: each is opened and unpacked once, however many requests are made of it."""

    def __init__(self) -> None:
        self._stack = contextlib.ExitStack()
        self._paths: dict[str, tuple[str, Path]] = {}
        self._sheets: dict[tuple[Path, str | None], tuple[str | None, Sequence[Sequence[Any]]]] = {}
        self._files: dict[Wanted, SourceFile] = {}
        self._layouts: dict[Path, Layout] = {}
        self._stores: dict[Place, Store] = {}
        self._stamps: dict[Path, tuple[int, int, int]] = {}

    def check_unchanged(self) -> None:
        """Raises Mistake where a file is not the one that it was when it was opened: its figures would be of two."""
        for path, stamp in self._stamps.items():
            if stamp_of(path) != stamp:
                raise Mistake(f"{path.name} was changed while it was read", "Run it again once the file is whole.")

    def close(self) -> None:
        """Removes what was put into temporary files."""
        self._stack.close()

    def file(self, wanted: Wanted) -> SourceFile:
        """The source as a file; what cannot be read where it lies is put into a temporary one."""
        if wanted not in self._files:
            self._files[wanted] = self._opened(wanted)
        return self._files[wanted]

    def _several(self, wanted: Wanted) -> SourceFile:
        """All files of a pattern as one, each with the same columns."""
        parts = [self.file(replace(wanted, source=path)) for path in paths_of(wanted.source)]
        name = f"{len(parts)} files like {parts[0].name}" if len(parts) > 1 else parts[0].name
        if wanted.source.startswith(HIVE):
            folder = Path(wanted.source.removeprefix(HIVE))
            parts = [replace(one, name=str(one.path.relative_to(folder))) for one in parts]
            name = f"{folder.name} ({len(parts)} files)"
        first = parts[0]
        for part in parts[1:]:
            columns = [set(one.layout.headings) if one.layout else None for one in (first, part)]
            if columns[0] != columns[1]:
                raise Mistake(f"{part.name} has other columns than {first.name}", "Name files of one kind together.")
        if any(part.found for part in parts):
            raise Mistake(
                f"{first.name} is a statement with its totals, and several cannot be one table",
                f"Read them one by one, or say {setting('statement', 'none')}.",
            )
        return SourceFile(
            name=name,
            path=first.path,
            layout=first.layout,
            is_numbered=True,
            said=tuple(dict.fromkeys(text for part in parts for text in part.said)),
            cautions=tuple(f"{part.name}: {text}" for part in parts for text in part.cautions),
            titles=first.titles,
            is_hive=wanted.source.startswith(HIVE),
            parts=tuple(parts),
        )

    def _opened(self, wanted: Wanted) -> SourceFile:
        if is_address(wanted.source):
            return self._stored(wanted)
        for said in ("table", "query"):
            if getattr(wanted, said):
                raise Mistake(f"{setting(said)}: {wanted.source} is no database", f"Leave {setting(said)} out.")
        if wanted.source.startswith((PATTERN, HIVE)):
            return self._several(wanted)
        if wanted.source not in self._paths:
            self._paths[wanted.source] = self._placed(wanted.source)
        name, path = self._paths[wanted.source]
        kind = kind_of(path)
        if kind not in WORKBOOKS and wanted.sheet:
            raise Mistake(
                f"{setting('sheet', wanted.sheet)}: {name} is no workbook", f"Leave {setting('sheet')} out."
            )
        if kind == ".parquet":
            return SourceFile(name=name, path=path)
        if kind in DELIMITED:
            return self._text_file(path, name, wanted)
        if kind in OBJECTS:
            headings, rows = objects(path, name, kind)
            return _written_tidy(name, None, distinct(headings), enumerate(rows, 1), self.spare_folder())
        return self._workbook(path, name, wanted)

    def _stored(self, wanted: Wanted) -> SourceFile:
        if wanted.sheet or wanted.cells:
            said = "sheet" if wanted.sheet else "cells"
            raise Mistake(f"{setting(said)}: a database has no sheets", f"Leave {setting(said)} out.")
        if wanted.table and wanted.query:
            raise Mistake(f"{setting('table')} and {setting('query')} both say what to read", "Leave one out.")
        place = Place(address=wanted.source, table=wanted.table, query=wanted.query)
        if place not in self._stores:
            if place.address.partition("://")[0] == CLUSTER:
                from marvex.sources.readers.spark import opened
            else:
                from marvex.sources.readers.databases import opened
            self._stores[place] = opened(place)
            self._stack.callback(self._stores[place].close)
        store = self._stores[place]
        return SourceFile(name=store.name, path=Path(store.name), store=store)

    def _placed(self, source: str) -> tuple[str, Path]:
        if source == STANDARD_INPUT:
            return "standard input", _from_standard_input(self.spare_folder())
        path = _checked(source)
        self._stamps[path] = stamp_of(path)
        if path.suffix.lower() == ".gz" and (kind_of(path) not in DELIMITED or path.suffix != ".gz"):
            return path.name, _unpacked(path, self.spare_folder())
        return path.name, path

    def spare_folder(self) -> Path:
        """A folder of its own, which is removed with all that is in it."""
        import tempfile

        return Path(self._stack.enter_context(tempfile.TemporaryDirectory(prefix="marvex-")))

    def _text_file(self, path: Path, name: str, wanted: Wanted) -> SourceFile:
        if path not in self._layouts:
            self._layouts[path] = layout_of(path, name)
        layout = self._layouts[path]
        if not layout.encoding.startswith("utf-8"):
            path = _as_utf8(path, layout.encoding, self.spare_folder())
            self._paths[wanted.source] = name, path
        size = path.stat().st_size
        is_plain = size > SMALL or (is_plain_table(layout) and not has_footer(path, layout))
        if size <= LOOKED_AT and path.suffix != ".gz" and names_totals(layout):
            is_plain = False
        if wanted.cells is None and is_plain:
            return SourceFile(name=name, path=path, layout=layout)
        if (path, None) not in self._sheets:
            self._sheets[path, None] = None, _records(path, layout.delimiter, name)
        return self._tidied(name, self._sheets[path, None], wanted, is_text=True)

    def _workbook(self, path: Path, name: str, wanted: Wanted) -> SourceFile:
        from marvex.sources.readers.sheets import sheet_of

        if (path, wanted.sheet) not in self._sheets:
            self._sheets[path, wanted.sheet] = sheet_of(path, name, wanted.sheet)
        return self._tidied(name, self._sheets[path, wanted.sheet], wanted)

    def _tidied(
        self, name: str, sheet: tuple[str | None, Sequence[Sequence[Any]]], wanted: Wanted, is_text: bool = False
    ) -> SourceFile:
        from marvex.sources.readers.tidy import tidy

        title, rows = sheet
        grid = grid_of(rows, wanted.cells)
        if not is_text and _is_plain(grid):
            headings, *lines = grid.lines
            numbered = ((line.number, line.cells) for line in lines if any(line.cells))
            return _written_tidy(name, title, distinct(headings.cells), numbered, self.spare_folder(), grid.letters)
        table = tidy(
            grid, name, wanted.wishes, keep_totals=wanted.keep_totals, is_text=is_text, numbers=wanted.numbers
        )
        numbered = ((line.number, line.cells) for line in table.lines)
        written = _written_tidy(name, title, table.headings, numbered, self.spare_folder(), table.letters)
        return replace(
            written,
            said=table.said,
            cautions=table.cautions,
            found=table.found,
            kept_totals=table.kept_totals,
            titles=table.titles,
        )


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


def _is_plain(grid: Grid) -> bool:
    """Whether a sheet is a table of dated facts from its first row on, without a total anywhere in it."""
    first = tuple(line.cells for line in grid.lines[:ROWS_LOOKED_AT])
    if not first or not is_plain_table(
        Layout(encoding="utf-8", delimiter=",", headings=distinct(first[0]), first=first)
    ):
        return False
    texts = {cell for line in grid.lines for cell in line.cells if cell[:1].isalpha()}
    return not any(map(is_total_name, texts))


def _records(path: Path, delimiter: str, name: str) -> list[list[str]]:
    opening = gzip.open if path.suffix == ".gz" else open
    with opening(path, "rt", encoding="utf-8-sig", newline="") as file:
        reader = csv.reader(file, delimiter=delimiter)
        try:
            return list(reader)
        except csv.Error as problem:
            most = csv.field_size_limit()
            raise Mistake(
                f"{name}, row {reader.line_num} cannot be read: it has a cell of more than {most:,} letters, or a line "
                "break outside quotes",
                "Mend the row.",
            ) from problem


def _written_tidy(
    name: str,
    sheet: str | None,
    headings: Sequence[str],
    rows: Iterable[tuple[int, Sequence[str]]],
    folder: Path,
    letters: tuple[str, ...] = (),
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
    )


def _as_utf8(path: Path, encoding: str, folder: Path) -> Path:
    import shutil

    copy = folder / "input.csv"
    opening = gzip.open if path.suffix == ".gz" else open
    with (
        opening(path, "rt", encoding=encoding, errors="replace", newline="") as old,
        copy.open("w", encoding="utf-8", newline="") as new,
    ):
        shutil.copyfileobj(old, new)
    return copy


def _unpacked(path: Path, folder: Path) -> Path:
    """A gzipped file of a kind that is not read through gzip, unpacked."""
    import shutil

    plain = folder / path.with_suffix("").name
    try:
        with gzip.open(path) as packed, plain.open("wb") as file:
            shutil.copyfileobj(packed, file)
    except (OSError, EOFError, zlib.error) as problem:
        raise damaged(path.name) from problem
    return plain


def stamp_of(path: Path) -> tuple[int, int, int]:
    """What tells whether a file is still the same: which it is, its size, when it was last written; zeros if gone."""
    try:
        found = path.stat()
    except OSError:
        return 0, 0, 0
    return found.st_ino, found.st_size, found.st_mtime_ns


def _checked(source: str) -> Path:
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


def _from_standard_input(folder: Path) -> Path:
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
