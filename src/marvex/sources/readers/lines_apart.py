"""The rows or columns of a sheet that are none of its amounts: what counts something else, and checks."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal

from marvex.core.errors import listed
from marvex.core.structure.apart import is_called_check
from marvex.core.values import dataclass
from marvex.sources.readers.sheet_table import SheetLine, SheetTable
from marvex.sources.readers.structure_words import plainly

NO_CHECK = "is a check that comes to nothing and was left out"


@dataclass(frozen=True, slots=True, kw_only=True)
class Apart:
    """The numbers of such rows, or the places of such columns, what is said of them, and cautions."""

    places: tuple[int, ...] = ()
    said: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()


def lines_apart(table: SheetTable, lines: Sequence[SheetLine]) -> Apart:
    """Of the lines that are no amounts."""
    letters = [table.letters[place] for place in table.places]
    counts, checks = list[str](), list[tuple[str, Decimal, str]]()
    for line in lines:
        called = f"{listed(map(str, line.numbers), 4)} '{line.label}'"
        if is_called_check(line.line.label):
            at, figure = next((at, one) for at, one in enumerate(line.line.figures) if one)
            checks.append((called, figure, f"column {letters[at % len(letters)]}"))
        else:
            counts.append(called)
    places = tuple(at for line in lines for at in line.numbers)
    return Apart(places=places, said=_told("row", counts), cautions=_told_off("row", checks))


def columns_apart(table: SheetTable, places: Sequence[int]) -> Apart:
    """Of the columns that are no amounts, by their places among the amounts."""
    counts, nothing, checks = list[str](), list[str](), list[tuple[str, Decimal, str]]()
    for at in places:
        place = table.places[at]
        called = f"{table.letters[place]} '{table.headings[place]}'"
        off = ((row.number, one) for row in table.rows if (one := table.figures[row.number][at]))
        if not is_called_check(table.headings[place]):
            counts.append(called)
        elif (first := next(off, None)) is None:
            nothing.append(f"column {called} {NO_CHECK}")
        else:
            checks.append((called, first[1], f"row {first[0]}"))
    return Apart(
        places=tuple(table.places[at] for at in places),
        said=(*_told("column", counts), *nothing),
        cautions=_told_off("column", checks),
    )


def _told(what: str, counts: Sequence[str]) -> tuple[str, ...]:
    if not counts:
        return ()
    if len(counts) == 1:
        return (f"{what} {counts[0]} is a count or a rate by name, in no total, and was left out",)
    return (f"{what}s {listed(counts, 4)} are counts or rates by name, in no total, and were left out",)


def _told_off(what: str, checks: Sequence[tuple[str, Decimal, str]]) -> tuple[str, ...]:
    return tuple(
        f"{what} {called} was left out, as a check, but comes to {plainly(figure)} in {at} and not to nothing"
        for called, figure, at in checks
    )
