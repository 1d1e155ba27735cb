"""Files as relations: which reader a name asks for, and the text that DuckDB reads it by.

A plain table in a text file, or a Parquet file, is read where it lies. A workbook, a list of
objects, or a sheet saved as text is first made tidy, and then read as the same kind of table.
"""

from __future__ import annotations

import contextlib
import csv
import gzip
import re
from collections.abc import Iterable, Sequence
from dataclasses import replace
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from marvex.core.errors import Mistake, setting
from marvex.core.structure.total_names import is_total_name
from marvex.sources.readers.file_dates import period_of_name, period_of_sheet
from marvex.sources.readers.grid import Grid, Sheet, grid_of
from marvex.sources.readers.joined import joined
from marvex.sources.readers.kinds import DELIMITED, OBJECTS, WORKBOOKS, kind_of
from marvex.sources.readers.layout import (
    LOOKED_AT,
    Layout,
    distinct,
    has_footer,
    is_plain_table,
    layout_of,
    name_totals,
)
from marvex.sources.readers.objects import objects
from marvex.sources.readers.places import (
    HIVE,
    PATTERN,
    check_different,
    checked,
    from_standard_input,
    is_address,
    paths_of,
    stamp_of,
    twins,
    unpacked,
)
from marvex.sources.readers.sides_across import sides_across
from marvex.sources.readers.source_file import ROW_COLUMN, SMALL, SourceFile, Wanted
from marvex.sources.readers.store import CLUSTER, Place, Store
from marvex.sources.readers.stray_quotes import check_quotes
from marvex.sources.years_said import is_year, with_year, year_said

if TYPE_CHECKING:
    import duckdb

STANDARD_INPUT = "-"
FEW_FILES = 60  # five years of months
ROWS_LOOKED_AT = 200  # of a sheet, to see whether it is a plain table


class Files:
    """The files of a session: each is opened and unpacked once, however many requests are made of it."""

    def __init__(self) -> None:
        self._stack = contextlib.ExitStack()
        self._paths: dict[str, tuple[str, Path]] = {}
        self._sheets: dict[tuple[Path, str | None], tuple[Sheet, ...]] = {}
        self._files: dict[Wanted, SourceFile] = {}
        self._layouts: dict[Path, Layout] = {}
        self._checked: set[Path] = set()
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
        paths = paths_of(wanted.source)
        check_different(paths)
        are_of_facts = wanted.source.startswith(HIVE) or len(paths) > FEW_FILES
        parts = [self.file(replace(wanted, source=path, is_of_facts=are_of_facts)) for path in paths]
        name = f"{len(parts)} files like {parts[0].name}" if len(parts) > 1 else parts[0].name
        if wanted.source.startswith(HIVE):
            folder = Path(wanted.source.removeprefix(HIVE))
            parts = [replace(one, name=str(one.path.relative_to(folder))) for one in parts]
            name = f"{folder.name} ({len(parts)} files)"
        periods = [period_of_name(one.name) for one in parts]
        return joined(parts, name, periods, is_hive=wanted.source.startswith(HIVE))

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
            if wanted.cells:
                what = f"{setting('cells', wanted.cells)}: {name} is no sheet"
                raise Mistake(what, f"Leave {setting('cells')} out.")
            return self._parquet(path, name, wanted)
        if kind in DELIMITED:
            return self._text_file(path, name, wanted)
        if kind in OBJECTS:
            headings, rows = objects(path, name, kind, wanted.numbers)
            if path.stat().st_size <= SMALL:
                table = self._tidied(name, Sheet(title=None, rows=[headings, *rows]), wanted)
                return replace(table, letters=())  # its cells are told by their names
            return _written_tidy(name, None, distinct(headings), enumerate(rows, 1), self.spare_folder())
        return self._workbook(path, name, wanted)

    def _parquet(self, path: Path, name: str, wanted: Wanted) -> SourceFile:
        """A table of facts where it lies, so that its columns keep their types; a sheet of totals made tidy."""
        from marvex.sources.readers.parquet import sheet_of

        as_it_is = SourceFile(name=name, path=path)
        sheet = None if wanted.is_of_facts else sheet_of(path, name, self._for_parquet)
        table = as_it_is if sheet is None else self._tidied(name, sheet, wanted, as_it_is)
        return replace(table, letters=())

    @cached_property
    def _for_parquet(self) -> duckdb.DuckDBPyConnection:
        import duckdb

        return self._stack.enter_context(duckdb.connect(config={"autoinstall_known_extensions": False}))

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
        as_it_is = SourceFile(name=store.name, path=Path(store.name), store=store)
        if not store.is_whole:
            return as_it_is
        table = self._tidied(store.name, Sheet(title=None, rows=store.cells, first=0), wanted, as_it_is)
        if table is as_it_is:
            return as_it_is
        # Totals are told by where they stand; a query may say their order.
        is_in_order = place.query is not None or not (table.found or table.said or table.kept_totals)
        told = (
            f"its rows are read in the order in which they came; ORDER BY in {setting('query', 'FILE.sql')} says one"
        )
        return replace(table, letters=(), cautions=(*table.cautions, *([] if is_in_order else [told])))

    def _placed(self, source: str) -> tuple[str, Path]:
        if source == STANDARD_INPUT:
            return "standard input", from_standard_input(self.spare_folder())
        path = checked(source)
        self._stamps[path] = stamp_of(path)
        if path.suffix.lower() == ".gz" and (kind_of(path) not in DELIMITED or path.suffix != ".gz"):
            return path.name, unpacked(path, self.spare_folder())
        return path.name, path

    def spare_folder(self) -> Path:
        """A folder of its own, which is removed with all that is in it."""
        import tempfile

        return Path(self._stack.enter_context(tempfile.TemporaryDirectory(prefix="marvex-")))

    def _text_file(self, path: Path, name: str, wanted: Wanted) -> SourceFile:
        if path not in self._layouts:
            self._layouts[path] = layout_of(path, name)
        layout = self._layouts[path]
        if (is_mixed := _has_both_ends(path)) or not layout.encoding.startswith("utf-8"):
            path = _as_utf8(path, layout.encoding, self.spare_folder(), None if is_mixed else "")
            self._paths[wanted.source] = name, path
        size = path.stat().st_size
        if path not in self._checked and size <= SMALL and path.suffix != ".gz":
            check_quotes(path, layout.delimiter, name)
            self._checked.add(path)
        is_plain = size > SMALL or (is_plain_table(layout) and not has_footer(path, layout))
        if size <= LOOKED_AT and path.suffix != ".gz" and name_totals(layout.first[1:]):
            is_plain = False
        if size <= SMALL and sides_across(layout.headings, wanted.wishes.measures):
            is_plain = False
        if wanted.cells is None and is_plain:
            return SourceFile(name=name, path=path, layout=layout)
        if (path, None) not in self._sheets:
            self._sheets[path, None] = (Sheet(title=None, rows=_records(path, layout.delimiter, name)),)
        return self._tidied(name, self._sheets[path, None][0], wanted, is_text=True)

    def _workbook(self, path: Path, name: str, wanted: Wanted) -> SourceFile:
        """The sheet that is meant; or several as one table, told apart by what their names say."""
        from marvex.sources.readers.sheets import sheets_of

        if (path, wanted.sheet) not in self._sheets:
            self._sheets[path, wanted.sheet] = sheets_of(path, name, wanted.sheet)
        sheets = self._sheets[path, wanted.sheet]
        if len(sheets) == 1:
            return self._tidied(name, sheets[0], wanted)
        titles = [str(sheet.title) for sheet in sheets]
        parts = []
        for title, sheet in zip(titles, sheets, strict=True):
            year = title if wanted.year is None and is_year(title) else wanted.year  # of months across it
            parts.append(self._tidied(f"{name}, sheet '{title}'", sheet, replace(wanted, year=year)))
        periods = [period_of_sheet(title) for title in _with_years(titles, parts, wanted.year, name)]
        whole = joined(parts, f"{name} ({len(parts)} sheets)", periods, titles=titles)
        # Of months to come a sheet may hold one plan after another, all alike.
        same = twins([(title, part.path) for title, part in zip(titles, parts, strict=True)])
        told = f"the sheets '{same[0]}' and '{same[1]}' hold the same figures" if same else ""
        return replace(whole, doubts=(told,) if told else ())

    def _tidied(
        self, name: str, sheet: Sheet, wanted: Wanted, as_it_is: SourceFile | None = None, *, is_text: bool = False
    ) -> SourceFile:
        """A sheet as a table of facts.

        Parameters
        ----------
        as_it_is : what it is read as where it is a table of facts already, if it need not be written anew.
        """
        from marvex.sources.readers.sums_by_formula import check_sums_left_out
        from marvex.sources.readers.tidy import tidy

        title, grid = sheet.title, grid_of(sheet.rows, wanted.cells, wanted.numbers, sheet.levels, sheet.first)
        if not is_text and _is_plain(grid) and not sides_across(grid.lines[0].cells, wanted.wishes.measures):
            if as_it_is is not None:
                return as_it_is
            headings, *lines = grid.lines
            numbered = ((line.number, line.cells) for line in lines if any(line.cells))
            heads, folder = distinct(headings.cells), self.spare_folder()
            cautions = sheet.cautions([line.number for line in lines if any(line.cells)], grid.letters)
            plain = _written_tidy(name, title, heads, numbered, folder, grid.letters)
            return replace(plain, cautions=(*grid.beyond, *cautions), shown_in=sheet.shown_in)
        table = tidy(
            grid,
            name,
            wanted.wishes,
            keep_totals=wanted.keep_totals,
            is_text=is_text,
            numbers=wanted.numbers,
            year=wanted.year,
            title=title,
        )
        if sheet.sums and not wanted.keep_totals and (wanted.wishes.is_plain or not wanted.wishes.is_list):
            check_sums_left_out(sheet.sums, table.headings, table.lines, wanted.wishes, name)
        numbered = ((line.number, line.cells) for line in table.lines)
        written = _written_tidy(name, title, table.headings, numbered, self.spare_folder(), table.letters)
        return replace(
            written,
            said=table.said,
            cautions=(
                *grid.beyond,
                *table.cautions,
                *sheet.cautions([line.number for line in table.lines], table.letters),
            ),
            doubts=table.doubts,
            found=table.found,
            kept_totals=table.kept_totals,
            titles=table.titles,
            shown=table.shown,
            parts_across=table.parts_across,
            total_across=table.total_across,
            led_across=table.led_across,
            both_kinds=table.both_kinds,
            shown_in=sheet.shown_in,
        )


def _with_years(titles: Sequence[str], parts: Sequence[SourceFile], year: str | None, name: str) -> Sequence[str]:
    """The names of sheets, those that say no year with the one that stands above each one's table."""
    said = [year_said(part.titles) for part in parts]
    if year is not None or None in said:
        return titles
    if len(set(said)) == 1:
        return with_year(titles, str(said[0]), name)
    return [with_year([title], str(own), name)[0] for title, own in zip(titles, said, strict=True)]


def _is_plain(grid: Grid) -> bool:
    """Whether a sheet is a table of dated facts from its first row on, without a total anywhere in it."""
    first = tuple(line.cells for line in grid.lines[:ROWS_LOOKED_AT])
    if (
        grid.above
        or not first
        or not is_plain_table(Layout(encoding="utf-8", delimiter=",", headings=distinct(first[0]), first=first))
    ):
        return False
    texts = {cell for line in grid.lines for cell in line.cells if cell[:1].isalpha()}
    return not any(map(is_total_name, texts)) and not name_totals(line.cells for line in grid.lines[1:])


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


def _has_both_ends(path: Path) -> bool:
    """Whether some lines of a small file end as on one system and some as on another, as in files put together."""
    if path.stat().st_size > SMALL or path.suffix == ".gz":
        return False
    text = path.read_bytes()
    if not 0 < text.count(b"\r\n") < text.count(b"\n"):
        return False
    outside = re.sub(rb'"[^"]*"', b"", text)  # a cell in quotes may hold lines of its own
    return 0 < outside.count(b"\r\n") < outside.count(b"\n")


def _as_utf8(path: Path, encoding: str, folder: Path, newline: str | None) -> Path:
    """A copy of a text file; with None for `newline` its lines all end alike."""
    import shutil

    copy = folder / "input.csv"
    opening = gzip.open if path.suffix == ".gz" else open
    with (
        opening(path, "rt", encoding=encoding, errors="replace", newline=newline) as old,
        copy.open("w", encoding="utf-8", newline="") as new,
    ):
        shutil.copyfileobj(old, new)
    return copy
