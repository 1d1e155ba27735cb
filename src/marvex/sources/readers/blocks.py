"""Blocks of one sheet under names of their own that have the same lines: actual and budget, regions, years."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence

from marvex.core.errors import Mistake, listed, setting
from marvex.core.values import dataclass
from marvex.sources.dates import month_alone, written
from marvex.sources.headings import parted
from marvex.sources.readers.grid import SheetRow

SECTION, SCENARIO, DATE = "section", "scenario", "date"  # the columns that the names of blocks become


@dataclass(frozen=True, slots=True, kw_only=True)
class Blocks:
    """The columns that the names of blocks become, with what they say of each row.

    Parameters
    ----------
    cells : by the row's number.
    names : of the blocks.
    tells_lines_apart : they are of regions and the like, and no scenarios or periods of the same lines.
    """

    headings: tuple[str, ...]
    cells: Mapping[int, tuple[str, ...]]
    names: tuple[str, ...]
    tells_lines_apart: bool


def blocks_of(
    data: Sequence[SheetRow],
    sections: Mapping[int, str],
    first: str,
    headings: Sequence[str],
    letters: Sequence[str],
    top: int,
    name: str,
) -> Blocks | None:
    """The blocks of a sheet; None where its sections have lines of their own, as those of a statement do.

    Parameters
    ----------
    sections : the name that stands before a row, by its number; empty where a blank line does.
    first : the name of the rows before any section.
    headings, letters : of the columns; `top` the number of the row of headings.

    Raises Mistake where blocks are of different periods, or one is a budget, and would be taken for the same as others.
    """
    own, of_rows = first, {}
    for line in data:
        own = sections.get(line.number) or own
        of_rows[line.number] = own
    names = list(dict.fromkeys(of_rows.values()))
    if len(names) < 2 or not all(names) or not _have_same_lines(data, of_rows):
        return None
    said = {one: parted(one) for one in names}
    scenarios = {str(its.scenario).casefold() for its in said.values() if its.scenario}
    are_sides = all(its.scenario for its in said.values()) and len(scenarios) > 1
    are_periods = not are_sides and all(written(one) or month_alone(one) or said[one].period for one in names)
    has_periods = any(parted(one).period or month_alone(one) for one in headings)
    if (are_periods and has_periods) or (scenarios and not are_sides and not are_periods):
        row = next(number for number, one in of_rows.items() if one != names[0])
        last = max(number for number in of_rows if number < row)
        cells = f"{letters[0]}{top}:{letters[-1]}{last}"
        raise Mistake(
            f"{name}, row {row}: the rows of '{names[1]}' stand under the same headings as those of '{names[0]}'",
            f"Write what tells them apart into a column; {setting('cells', cells)} reads the first alone.",
        )
    columns = {SCENARIO: [str(said[one].scenario) for one in names]} if are_sides else {}
    if not are_sides or len({its.rest for its in said.values()}) > 1:
        kind = DATE if are_periods else SECTION
        columns = {kind: [said[one].rest for one in names] if are_sides else names} | columns
    cells_of = dict(zip(names, zip(*columns.values(), strict=True), strict=True))
    return Blocks(
        headings=tuple(_free(one, headings) for one in columns),
        cells={row: cells_of[one] for row, one in of_rows.items()},
        names=tuple(names),
        tells_lines_apart=not are_sides and not are_periods,
    )


def with_blocks(
    blocks: Blocks, headings: Sequence[str], letters: Sequence[str], rows: Sequence[SheetRow]
) -> tuple[tuple[str, ...], tuple[str, ...], tuple[SheetRow, ...]]:
    """Headings, letters and rows with the columns of the blocks: before the others where they name lines."""
    letters_of = tuple("" for _ in blocks.headings)
    if blocks.tells_lines_apart:
        found = tuple(SheetRow(row.number, (*blocks.cells[row.number], *row.cells), row.indent) for row in rows)
        return (*blocks.headings, *headings), (*letters_of, *letters), found
    found = tuple(SheetRow(row.number, (*row.cells, *blocks.cells[row.number]), row.indent) for row in rows)
    return (*headings, *blocks.headings), (*letters, *letters_of), found


def told_of(blocks: Blocks) -> str:
    """What is said of blocks."""
    names = listed([f"'{name}'" for name in blocks.names], 4)
    return f"the names of its blocks, {names}, are read as {' and '.join(blocks.headings)}"


def _have_same_lines(data: Sequence[SheetRow], of_rows: Mapping[int, str]) -> bool:
    """Whether at least half of the lines stand in several blocks under the same name."""
    known: dict[str, set[str]] = {}
    for row in data:
        line = next((cell for cell in row.cells if cell), "")
        known.setdefault(line.casefold(), set()).add(of_rows[row.number])
    shared = sum(len(its) > 1 for its in known.values())
    return 2 * shared >= len(known)


def _free(wanted: str, headings: Sequence[str]) -> str:
    taken = Counter(one.casefold() for one in headings)
    return wanted if not taken[wanted] else f"{wanted} of block"
