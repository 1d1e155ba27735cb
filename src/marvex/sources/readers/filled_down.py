"""Names that a sheet does not repeat: an empty cell below one goes on with it, as in a pivot table."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import groupby

from marvex.core.structure.total_names import naming
from marvex.sources.cells import is_absent, is_figure
from marvex.sources.readers.grid import SheetRow

LEAST_EMPTY = 0.25  # of the rows: a few empty cells among many names are names that are not known


def filled_down(
    headings: Sequence[str], rows: Sequence[SheetRow], amounts: Sequence[int]
) -> tuple[list[SheetRow], list[str]]:
    """The rows with the names that each group gives once in every row of it, and what is said of that.

    Parameters
    ----------
    amounts : the columns of amounts; names stand left of them, those of groups left of those of their rows.
    """
    found, said = list(rows), []
    outer: list[int] = []  # the columns of groups that hold those of the next
    for place in range(min(amounts, default=0) - 1):
        groups = _groups(found, place, outer, range(place + 1, min(amounts)))
        if groups is None:
            if _comes_in_runs([row.cells[place] for row in found if not _is_of_total(row, min(amounts))]):
                outer.append(place)
            continue
        outer.append(place)
        own, filled = "", 0
        for at, row in enumerate(found):
            own = row.cells[place] or own
            if row.number in groups and not row.cells[place]:
                cells = (*row.cells[:place], own, *row.cells[place + 1 :])
                found[at] = SheetRow(row.number, cells, row.indent)
                filled += 1
        said.append(f"an empty {headings[place] or 'cell'} goes on with the one above it ({filled} rows)")
    return found, said


def has_groups(rows: Sequence[Sequence[str]]) -> bool:
    """Whether the first rows of a text file, of one width, leave out names that go on."""
    places = [at for at in range(len(rows[0])) if all(is_figure(row[at]) for row in rows if row[at])] if rows else []
    if not any(not row[at] for row in rows for at in range(min(places, default=0))):
        return False
    numbered = [SheetRow(number, tuple(row)) for number, row in enumerate(rows)]
    return bool(filled_down([""] * len(rows[0]), numbered, places)[1])


def _groups(rows: Sequence[SheetRow], place: int, outer: Sequence[int], inner: range) -> set[int] | None:
    """The numbers of the rows that are of the groups of a column; None where it names no groups."""
    own: dict[int, str] = {}
    seen: dict[tuple[str, ...], None] = {}
    totals: dict[tuple[str, ...], dict[tuple[str, ...], int]] = {}  # of each name in each group its row
    before: tuple[str, ...] = ()
    empty = 0
    for row in rows:
        if _is_of_total(row, inner.stop) or not any(row.cells[place : inner.stop]):
            # A total is of all of its group, or of none, unless each group has it.
            if seen and not row.cells[place] and any(row.cells[one] for one in inner):
                totals.setdefault(row.cells[inner.start : inner.stop], {}).setdefault([*seen][-1], row.number)
            continue
        name, within = row.cells[place], tuple(row.cells[one] for one in outer)
        if name:
            if (*within, name) in seen:
                return None  # a name that comes again is one that is said in each row
            seen[*within, name] = None
        elif (
            not own or within != before or not any(row.cells[one] and not is_absent(row.cells[one]) for one in inner)
        ):
            return None  # the first of another group goes on with none
        else:
            empty += 1
        own[row.number], before = name, within
    # The only group of the first column is that of all rows.
    are_groups = len(seen) > 1 or (place == 0 and len(inner) > 1 and len(seen) == 1)
    of_each = {number for numbers in totals.values() if numbers.keys() == seen.keys() for number in numbers.values()}
    return own.keys() | of_each if are_groups and empty >= max(2, LEAST_EMPTY * len(own)) else None


def _is_of_total(row: SheetRow, stop: int) -> bool:
    names = [cell for cell in row.cells[:stop] if cell]
    return not names or any(naming(cell).is_total for cell in names)


def _comes_in_runs(cells: Sequence[str]) -> bool:
    """Whether a column is filled and each of its names goes on for several rows, so that those are of one group."""
    runs = [(name, len([*of])) for name, of in groupby(cells)]
    return all(cells) and len({name for name, _ in runs}) == len(runs) and all(length > 1 for _, length in runs)
