"""One source read into its table of facts: roles, filters, figures, dates, and what was left out."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import field
from datetime import date
from decimal import Decimal
from typing import TYPE_CHECKING

from marvex.core.compare.reservation import Reservation
from marvex.core.errors import listed
from marvex.core.structure.statement import Statement
from marvex.core.time.calendar import Grain
from marvex.core.values import dataclass
from marvex.sources.columns import Column
from marvex.sources.columns_asked import UNNAMED_HEADINGS
from marvex.sources.engine.doubtful_rows import are_few
from marvex.sources.engine.facts import Facts
from marvex.sources.engine.rows import Rows
from marvex.sources.engine.source_asked import AskedOfSource
from marvex.sources.readers.source_file import SourceFile
from marvex.sources.roles import Roles
from marvex.sources.where import Filter

if TYPE_CHECKING:
    from marvex.core.compare.trace import TracedRow


MOST_NAMED = 500  # different names in the first rows: more are of documents or people


@dataclass(frozen=True, slots=True)
class Stops:
    """A last day whose times stop hours before days usually do, so that it is part filled; how it is said."""

    day: date
    spoken: str


@dataclass(frozen=True, slots=True, kw_only=True)
class WrittenPeriod:
    """A period, longer than a day, that rows are dated by; its scenario is None where it may be of any."""

    text: str
    scenario: str | None
    first: date
    last: date
    grain: Grain


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Source:
    """A source that has been read into its table of facts, and what it was taken for.

    Parameters
    ----------
    rows : what its rows are asked by.
    sample : its first rows, every cell as text.
    scenario : the one that the whole source holds, where the call says so.
    own_said : what was worked out while it was read.
    statement : that whose lines its categories are.
    stops : the last day, where it is part filled.
    currency : of its amounts, where a column, the signs beside figures or headings say it.
    worked_out : the amounts that are worked out of several columns.
    units : the column that says several units of its rows, and those.
    written_grain : the grain that all of its dates are written in, where it is none of days.
    written_grains : the same of each scenario, where they are not alike.
    written_periods : what its dates stand for that is longer than a day.
    lacks_headings : its headings are a row of data, which a survey alone passes over.
    kept_headings : the filters of what its headings say, where those are categories; `filters` those of its rows.
    """

    file: SourceFile
    asked: AskedOfSource
    rows: Rows
    headings: tuple[str, ...]
    sample: Sequence[Sequence[str | None]]
    columns: tuple[Column, ...]
    roles: Roles
    filters: tuple[Filter, ...]
    facts: Facts
    rows_read: int
    written_grain: Grain | None
    cautions: tuple[str, ...]
    reservations: tuple[Reservation, ...]
    statement: Statement | None = None
    own_said: tuple[str, ...] = ()
    stops: Stops | None = None
    currency: str | None = None
    worked_out: tuple[str, ...] = ()
    units: tuple[str, tuple[str, ...]] | None = None
    written_grains: Mapping[str, Grain | None] = field(default_factory=dict)
    written_periods: tuple[WrittenPeriod, ...] = ()
    kept_headings: tuple[Filter, ...] = ()
    lacks_headings: bool = False

    @property
    def name(self) -> str:
        return self.file.name

    @property
    def narrowed(self) -> tuple[Filter, ...]:
        """All filters, of rows and of what headings say."""
        return (*self.filters, *self.kept_headings)

    @property
    def scenario(self) -> str | None:
        return self.asked.name

    @property
    def said(self) -> tuple[str, ...]:
        """What was left out of a sheet before it was read, and the statement that was found in it."""
        said = tuple(f"{self.name}: {one}" for one in (*self.file.said, *self.own_said))
        is_found = self.statement is not None and self.statement.is_found
        own = self.file.found.statement if is_found and self.file.found else None
        return (*said, f"{self.name}: {own.spoken}") if own else said

    @property
    def row_column(self) -> str | None:
        """The column that holds each row's number in the source, where the rows were put together."""
        return self.file.row_column

    def traced(self, number: int, column: str, amount: Decimal, whole: Sequence[str | None]) -> TracedRow:
        """A row as a trace shows it: where it is, and its cells but for the amounts."""
        from marvex.core.compare.trace import TracedRow

        amounts = {one.name for one in self.roles.amounts}
        told = [(name, text or "") for name, text in zip(self.headings, whole, strict=True) if name not in amounts]
        if len(amounts) > 1:
            told.append(("column", column))
        place = self.file.place(int(number), column) if len(amounts) > 1 else self.file.line(int(number))
        return TracedRow(
            place=place,
            amount=amount,
            headings=tuple(name for name, _ in told),
            cells=tuple(text for _, text in told),
        )

    def place_of(self, number: int) -> str:
        """The row of the source that a row number stands for, as a message says it."""
        return f"row {self.file.row_of(int(number))}"

    @property
    def of_rows(self) -> tuple[object, ...]:
        """What tells its rows from any others of a session."""
        return self.asked.rows_of(self.facts.relation, self.headings)

    @property
    def are_few(self) -> bool:
        """Whether all of its rows can be set against one another."""
        return are_few(self.rows_read, is_stored=self.file.store is not None)

    def values(self, column: str) -> tuple[str, ...]:
        """The different values of a column, trimmed: of all rows where these are few, else of the first of them.

        The first rows of a file that is in order of the column have but one of its values. They tell enough of a
        column that has another in nearly every row, such as the number of a document.
        """
        return self.rows.gathered.once((f"known of {column}", *self.of_rows), lambda: self._known_values(column))

    def _known_values(self, column: str) -> tuple[str, ...]:
        first = self.first_values(column)
        if self.rows_read <= len(self.sample) or len(first) > MOST_NAMED or not self.are_few:
            return first
        key = f"values of {column}", *self.of_rows
        return tuple(self.rows.gathered.once(key, lambda: self.rows.values(column)))

    def first_values(self, column: str) -> tuple[str, ...]:
        """The different values of a column in the first rows, trimmed."""
        place = self.headings.index(column)
        return tuple(sorted({(row[place] or "").strip() for row in self.sample}))

    def names_rows(self, column: str) -> bool:
        """Whether a column gives each row a name of its own, as that of the lines of a list does."""
        return any(one.name == column and one.is_text and one.distinct == one.filled > 1 for one in self.columns)

    @property
    def is_percentages(self) -> bool:
        """Whether its amounts are written in per cent."""
        places = [self.headings.index(one.name) for one in self.roles.amounts]
        filled = [str(row[place]) for row in self.sample for place in places if row[place]]
        return bool(filled) and all("%" in cell for cell in filled)

    @property
    def compared_by(self) -> tuple[str, ...]:
        """The columns compared by, where they have names worth saying."""
        by = () if self.roles.each_row else self.roles.compared_by
        return tuple(name for name in by if name != UNNAMED_HEADINGS)

    @property
    def taken_for(self) -> str:
        """In a few words, what each column was taken for."""
        found = self.roles
        parts = [f"{found.date} as date"] if found.date else []
        if len(found.amounts) == 1:
            parts.append(f"{found.amounts[0].name} as amount")
        elif found.amounts:
            kinds = [
                kind
                for kind, has in (
                    ("periods", found.amounts[0].period),
                    ("scenarios", found.amounts[0].scenario),
                    (found.headings or "categories", found.amounts[0].category),
                )
                if has
            ]
            ends = (
                f"{found.amounts[0].name} … {found.amounts[-1].name}"
                if len(found.amounts) > 2
                else " and ".join(one.name for one in found.amounts)
            )
            parts.append(f"{ends} as {' and '.join(kinds)}")
        if found.scenario:
            parts.append(f"{found.scenario} as scenario")
        if found.each_row:
            parts.append(f"each row as {found.by[0]}")
        if found.is_wide or found.sides_are_columns or (found.amounts and not self.asked.columns.amounts):
            used = found.taken | {self.asked.total_as.column} | self.asked.wanted.wishes.named | set(found.by)
            used |= set((found.date or "").split(" and "))  # a date may stand in several columns
            is_lines = self.statement is not None and self.statement.is_found and found.headings is not None
            unused = [one.name for one in self.columns if one.is_figures and not one.is_code and one.name not in used]
            if unused and not is_lines:
                parts.append(f"not {listed(unused, 4)}")
        sheet = f", sheet '{self.file.sheet}'" if self.file.sheet else ""
        return f"{self.name}{sheet}: took {', '.join(parts)}"
