"""What a source is once it is opened: its name, the rows' places in it, and the text that DuckDB reads it by."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import field
from pathlib import Path
from typing import TYPE_CHECKING

from marvex.core.values import dataclass
from marvex.sources.cells import Convention
from marvex.sources.quoting import quoted_name, quoted_path, quoted_text
from marvex.sources.readers.sheet_table import FoundTable, Wishes
from marvex.sources.readers.store import Store

if TYPE_CHECKING:
    from marvex.sources.readers.layout import Layout

OF_A_PART = 10**11  # rows: what is above it in a row's number says which of several files it is in
SMALL = 16_000_000  # bytes
BUFFER = 8_000_000  # bytes: a sample of a long file needs no more, and all of it is read as fast
ENOUGH_ROWS = 1_000  # to tell what the columns are
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
    year: str | None = None  # of months that say none
    table: str | None = None  # of a database
    query: str | None = None
    is_of_facts: bool = False  # one of so many files that it is no sheet, which is not looked at


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
    doubts: tuple[str, ...] = ()  # about its figures
    found: FoundTable | None = None  # the statement that it was found to be
    kept_totals: tuple[str, ...] = ()  # rows that are totals of others, where those are kept
    titles: tuple[str, ...] = ()  # what stands above its headings
    both_kinds: tuple[str, str] | None = None  # sections of income and of costs that are both positive
    shown_in: Mapping[str, int | None] = field(default_factory=dict)  # by letter, as `Sheet` has it
    parts_across: tuple[str, ...] = ()  # columns of amounts that are the parts of one that was left out
    total_across: str = ""  # that one
    led_across: tuple[str, ...] = ()  # columns of amounts that lead from the first of them to the last
    shown: Convention | None = None  # how figures are written, as cells show that are not among its facts
    parts: tuple[SourceFile, ...] = ()  # the files that it is made of, where it is several
    runs_to_date: bool = False  # the title of each of its parts says so
    own: tuple[str, str] | None = None  # a column of what its name says of all its rows: the heading, and the text
    is_hive: bool = False  # the names of its folders say more of each part, year=2026
    store: Store | None = None  # the table of a database or a cluster that it is, and no file

    @property
    def title(self) -> str:
        """Its name by itself, without how many files it is."""
        return self.name.partition(" (")[0]

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
            if not letter:  # a column that the sheet itself does not have
                return f"{self.name}, row {row}, {column}"
            sheet = f", sheet '{self.sheet}'" if self.sheet else ""
            return f"{self.name.removesuffix(sheet)}{sheet}, cell {letter}{row}"
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
        if part.own is not None:
            others += f", {quoted_text(part.own[1])} AS {quoted_name(part.own[0])}"
        return f"SELECT {others}, {place * OF_A_PART} + {number} AS {column} FROM {part.relation()}"
