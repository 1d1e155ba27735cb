"""What a call says of one source."""

from __future__ import annotations

from dataclasses import field
from decimal import Decimal
from typing import TYPE_CHECKING

from marvex.core.compare.totals import TotalAs
from marvex.core.structure.statement import Statement
from marvex.core.time.calendar import CIVIL, Calendar
from marvex.core.values import dataclass
from marvex.sources.columns_asked import ColumnsAsked
from marvex.sources.readers.source_file import Wanted

if TYPE_CHECKING:
    from marvex.sources.engine.spreading import Spread


@dataclass(frozen=True, slots=True, kw_only=True)
class AskedOfSource:
    """What a call says of one source.

    `name` is the scenario that the whole source holds, where the call says so; `statement` says which line
    each value of the column `account` is on, and `spare` which line those are on that it does not name;
    `finds_statement` says that one that is found in the table serves where none is given.
    """

    wanted: Wanted
    columns: ColumnsAsked
    name: str | None = None
    where: tuple[str, ...] = ()
    is_negative: bool = False
    sign: str | None = None  # how it signs its amounts, where that is said
    power: int | None = None  # of ten, that its figures are in; None where its headings say it
    blank_bad_cells: bool = False
    numbers: str = "auto"
    dates: str = "auto"
    total_as: TotalAs = field(default_factory=TotalAs)
    name_map: str | None = None  # a two-column table of the names to show
    statement: Statement | None = None
    account: str | None = None
    spare: str | None = None
    calendar: Calendar = CIVIL
    is_year_said: bool = False  # in which month it begins; else a year of reporting is taken for one from January on
    lookup: str | None = None  # a second table, and the column that it is joined by where that is said
    lookup_column: str | None = None
    finds_statement: bool = False
    merged: Statement | None = None  # the one that was found, with the lines that other sources have
    list_field: str = ""  # a setting that takes the rows for a list, and no statement
    spread: Spread | None = None  # how what is kept by longer periods is spread
    is_one_of_several: bool = False  # sources, in which rows are alike by their names
    named_by: str | None = None  # the column that names the rows of the first of them, where no call says one
    panels: tuple[str, ...] = ()  # the columns whose values have a panel each, where a statement is found

    def signed(self, amount: Decimal) -> Decimal:
        """An amount as the source stores it, with the sign that is asked for."""
        return amount.copy_negate() if self.is_negative else amount

    def rows_of(self, relation: str, headings: tuple[str, ...]) -> tuple[object, ...]:
        """What tells the rows that are asked about from any others of a session."""
        of = self.wanted
        return of.source, of.table, of.query, relation, self.lookup, self.lookup_column, headings
