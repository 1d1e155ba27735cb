"""Other tables that a sheet holds, below the first or beside it, and sections that do not belong together."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from itertools import pairwise

from marvex.core.compare.scenario_words import PRIOR_NAMES, says_planned, version_said
from marvex.core.errors import Mistake, listed, setting
from marvex.core.structure.cost_names import COST, INCOME, speaks_of_cost, speaks_of_income
from marvex.sources.dates import written
from marvex.sources.readers.grid import SheetRow, place_of
from marvex.sources.readers.sheet_parts import OF_LINES
from marvex.sources.readers.sheet_table import SheetTable
from marvex.sources.where import filter_text

_OF_A_PAGE = re.compile(r"(?i)\b(?:page|continued|seite|pagina|página)\b")


def other_tables(
    lines: Sequence[SheetRow], heading_lines: Sequence[SheetRow], letters: Sequence[str], name: str
) -> tuple[str, ...]:
    """That the same headings under a title of their own begin another table, where there are such.

    Raises Mistake where such headings name another kind of lines: accounts below routes.
    """
    headings = heading_lines[-1]
    later = lines[1:]  # above the first line of the first table there is none
    titled = {
        line.number: (title.number, next(cell for cell in title.cells if cell))
        for title, line in pairwise(later)
        if line.cells[1:] == headings.cells[1:] and title.filled == 1 and title.number >= line.number - 2
    }

    def first_alone(number: int) -> str:
        last = max(line.number for line in lines if line.number < number)
        return setting("cells", f"{letters[0]}{heading_lines[0].number}:{letters[-1]}{last}")

    for line in later:
        both = {one.cells[0].strip().casefold() for one in (line, headings)}
        is_titled = line.number in titled and all(both)
        if line.cells[1:] == headings.cells[1:] and len(both) == 2 and (both <= OF_LINES or is_titled):
            number, text = titled.get(line.number, (line.number, line.cells[0]))
            raise Mistake(
                f"{name}: another table stands below the first, from row {number} ('{text}')",
                f"Read one of them: {first_alone(number)}.",
            )
    again = [line for line in later if line.cells == headings.cells]
    found = [titled[one.number] for one in again if one.number in titled]
    found = [one for one in found if not _OF_A_PAGE.search(one[1])]
    if found:
        (number, _), names = found[0], listed([f"'{name}'" for _, name in found], 3)
        of = f", {names},"
    elif again and again[0].number not in titled and _come_again(lines, again[0]):
        number, of = again[0].number, " of the same lines,"
    else:
        return ()
    return (
        f"row {number} begins another table{of} which counts as well: {first_alone(number)} reads the first alone",
    )


def _come_again(lines: Sequence[SheetRow], heading: SheetRow) -> bool:
    """Whether most of what stands below a heading has the names of what stands above it."""
    at = next(at for at, line in enumerate(lines) if line is heading)
    above, below = ({line.cells[0] for line in some} - {"", heading.cells[0]} for some in (lines[:at], lines[at:]))
    both = above & below
    return 2 * len(both) > len(below) and not any(written(name) for name in both)


def check_one_table(table: SheetTable, first_row: int) -> None:
    """Raises Mistake where another table stands beside the first, behind an empty column and with names of its own."""
    numbers = [place_of(letter) for letter in table.letters]
    for place in range(2, len(numbers) - 1):
        filled = sum(bool(row.cells[place]) for row in table.rows)
        is_apart = numbers[place] > numbers[place - 1] + 1 and place not in table.places
        if is_apart and 2 * filled > len(table.rows) and min(table.places, default=place) < place < table.places[-1]:
            name, last = table.headings[place] or table.letters[place], table.letters[place - 1]
            cells = setting("cells", f"{table.letters[0]}{first_row}:{last}{table.rows[-1].number}")
            raise Mistake(
                f"{table.name}: another table stands beside the first, from column {table.letters[place]} ('{name}')",
                f"Read one of them: {cells}.",
            )


def check_sides_below(table: SheetTable, where: Sequence[str]) -> None:
    """Raises Mistake where rows called budget, last year or variance stand again and again below the lines they are of.

    Parameters
    ----------
    where : conditions on the rows, which may leave them out.
    """
    place = next((one for one in range(len(table.headings)) if one not in table.places), None)
    if place is None or any(one.casefold().startswith(table.headings[place].casefold()) for one in where):
        return
    counts = Counter(row.cells[place].strip() for row in table.rows if row.cells[place])
    sides = [one for one in counts if says_planned(one) or one.casefold() in (*PRIOR_NAMES, "variance", "change")]
    again = [one for one in sides if counts[one] > 1]
    if again and len(counts) - len(sides) > 1 and not any(version_said(one) for one in counts if one not in sides):
        out = setting("where", filter_text(table.headings[place], "!=", sides))
        raise Mistake(
            f"{table.name}: rows called {listed(map(repr, sides), 3)} stand below each line, and would count with it",
            f"Write the side of each row into a column of its own; {out} keeps the lines alone.",
        )


def both_kinds(table: SheetTable, before: SheetRow, first: str) -> tuple[str, str] | None:
    """The section of income and that of costs, where the figures of both are positive.

    Parameters
    ----------
    before : the line above the first, which may name its section, as `first` does where it begins a block.
    """
    sums: Counter[str] = Counter()
    section = next(cell for cell in before.cells if cell) if before.filled == 1 else first
    for row in table.rows:
        section = table.sections.get(row.number, section)
        figures = [one for one in table.figures.get(row.number, ()) if one is not None]
        sums[section] += figures[-1] if section and figures else 0  # type: ignore[assignment]
    income = [one for one in sums if sums[one] > 0 and (one.casefold() in INCOME or speaks_of_income(one))]
    costs = [one for one in sums if sums[one] > 0 and (one.casefold() in COST or speaks_of_cost(one))]
    return (income[0], costs[0]) if income and costs else None
