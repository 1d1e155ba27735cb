"""A sheet as the finder of its structure is given it, and what is left of it: values, no work."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from decimal import Decimal
from typing import TYPE_CHECKING

from marvex.core.values import dataclass

if TYPE_CHECKING:
    from marvex.core.structure.evidence import TableLine
    from marvex.core.structure.statement import Statement
    from marvex.sources.readers.grid import SheetRow


@dataclass(frozen=True, slots=True, kw_only=True)
class FoundTable:
    """The statement that a table was found to be.

    Parameters
    ----------
    column : the heading of the column of its lines; None where its lines are columns.
    is_signed : its lines cannot just be added up, since some are subtracted.
    notes : each total with its parts, for who asks.
    """

    statement: Statement
    column: str | None
    is_signed: bool
    notes: tuple[str, ...]

    @property
    def has_lines_beside(self) -> bool:
        """Whether it has lines that its result does not contain, as the assets of a balance sheet are."""
        lines = (one for one in self.statement.lines if one.accounts)
        return any(not self.statement.effect_on_result(one.label) for one in lines)


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetTable:
    """What of a sheet the finder is given: rows of figures, and where their names stand.

    Parameters
    ----------
    name : what to call the source in a message.
    headings, letters : of all columns.
    places : the columns of amounts; `numbered` those that number the rows, or say how deep they stand.
    figures : of each row by its number, in step with `places`.
    percents : the rows, by their numbers, that are written in per cent.
    sections : the heading that stands before a row, by its number; empty where a blank line does.
    is_outline : rows are set in as numbers of an outline, or levels, say.
    """

    name: str
    headings: Sequence[str]
    letters: Sequence[str]
    rows: Sequence[SheetRow]
    places: Sequence[int]
    numbered: frozenset[int]
    figures: Mapping[int, Sequence[Decimal | None]]
    percents: frozenset[int]
    sections: Mapping[int, str]
    is_outline: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Left:
    """What is left of a table's rows, what was said of the others, and the statement that they are.

    Parameters
    ----------
    rows : those that are lines of their own, under the names by which the statement knows them.
    said : what was left out with proof, `cautions` without; `doubts` are of what only figures prove.
    both_kinds : the total of income and that of costs, or a cost, that are both positive.
    """

    rows: tuple[SheetRow, ...]
    said: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    doubts: tuple[str, ...] = ()
    found: FoundTable | None = None
    both_kinds: tuple[str, str] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Wishes:
    """What a call says of the structure.

    Parameters
    ----------
    label : the column of the lines, where it is named.
    named : names that options mention, which are never left out.
    where : conditions on the rows; one that a name does not meet is no line.
    heading : the column that headings are values of, on which there may be conditions too; `is_across` where the
        call says that they are.
    blanks : cells that cannot be read are absent.
    is_list : no statement is to be made of it; `is_plain` where just that is said.
    statement : that of a file, which says what the lines are.
    has_amounts : columns of amounts are named, so that its columns are no lines; `amounts` those, and what they are
        set against or divided by. `are_all_amounts` where headings are said to be of amounts. `measures` are all
        amounts and divisors that are named, in an amount that is worked out too.
    is_down : more is bad news.
    keep_parts : lines that by their names are parts of others stay.
    named_by_start : a reporting year of one name, `FY26`, is called by the year in which it begins.
    """

    label: str | None = None
    named: frozenset[str] = frozenset()
    where: tuple[str, ...] = ()
    heading: str = ""
    is_across: bool = False
    has_amounts: bool = False
    amounts: tuple[str, ...] = ()
    are_all_amounts: bool = False
    measures: tuple[str, ...] = ()
    blanks: bool = False
    is_list: bool = False
    is_plain: bool = False
    statement: Statement | None = None
    is_down: bool = False
    keep_parts: bool = False
    named_by_start: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetLine:
    """A line of the table and the rows that it is of: several where other columns tell them apart."""

    line: TableLine
    label: str
    numbers: tuple[int, ...]
