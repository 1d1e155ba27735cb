"""A table of rows: which of its columns hold amounts, what they are as figures, and how deep its rows are set in."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from decimal import Decimal
from typing import TypeAlias

from marvex.core.structure.cost_names import speaks_of_money
from marvex.sources.cells import Convention, is_absent, is_figure, value_of
from marvex.sources.columns import is_code_name, says_date
from marvex.sources.dates import short_months, written
from marvex.sources.headings import parted
from marvex.sources.numbering import (
    depths,
    is_side,
    numbers_are_names,
    numbers_rows,
    rise_as_codes,
    speaks_of_amounts,
)
from marvex.sources.readers.grid import SheetRow
from marvex.sources.readers.sheet_table import SheetTable
from marvex.sources.years_said import YEAR

# The figures of each row by its number, in step with the columns of amounts; None where a cell has none.
_Figures: TypeAlias = dict[int, list[Decimal | None]]
_LOOKED_AT = 20  # cells of a column, to see whether it holds dates


def table_of(
    name: str,
    headings: Sequence[str],
    letters: Sequence[str],
    data: Sequence[SheetRow],
    numbers: str,
    sections: Mapping[int, str],
) -> SheetTable:
    """The rows with the figures of their columns of amounts, set in as a column says."""
    deep, columns = _depths(headings, data), range(len(headings))
    data = [replace(row, indent=depth) for row, depth in zip(data, deep, strict=True)] if deep else data
    filled = ([line.cells[place] for line in data if line.cells[place]] for place in columns)
    numbered = _numbered(headings, list(filled))
    places = _amount_places(headings, data, [place for place in columns if place not in numbered]) or numbered
    percents = (line.number for line in data if is_percent([line.cells[place] for place in places]))
    return SheetTable(
        name=name,
        headings=tuple(headings),
        letters=tuple(letters),
        rows=tuple(data),
        places=tuple(places),
        numbered=frozenset(numbered),
        figures=_amounts(data, places, numbers),
        percents=frozenset(percents),
        sections=sections,
        is_outline=deep is not None,
    )


def without_columns(table: SheetTable, gone: Collection[int], numbers: str) -> SheetTable:
    """The table without some of its columns, by their places."""
    stay = [place for place in range(len(table.headings)) if place not in gone]
    rows = [SheetRow(line.number, tuple(line.cells[place] for place in stay), line.indent) for line in table.rows]
    headings, letters = ([texts[place] for place in stay] for texts in (table.headings, table.letters))
    return table_of(table.name, headings, letters, rows, numbers, table.sections)


def without_rows(table: SheetTable, gone: Collection[int]) -> SheetTable:
    """The table without some of its rows, by their numbers."""
    return replace(table, rows=tuple(row for row in table.rows if row.number not in gone)) if gone else table


def is_percent(cells: Sequence[str]) -> bool:
    """Whether most cells that are filled are percentages."""
    filled = [cell for cell in cells if cell]
    return bool(filled) and 2 * sum("%" in cell for cell in filled) > len(filled)


def is_dated(cells: Sequence[str]) -> bool:
    return 2 * sum(written(cell) is not None for cell in cells) > len(cells) or bool(short_months(cells))


def _numbered(headings: Sequence[str], filled: Sequence[Sequence[str]]) -> list[int]:
    """The columns that number the rows, and a lone one that rises as codes do beside amounts of periods or sides."""
    numbered = [place for place, cells in enumerate(filled) if numbers_rows(headings[place], cells)]
    said = [place for place, heading in enumerate(headings) if is_side(heading)]
    codes = [at for at, cells in enumerate(filled) if at not in said and rise_as_codes(headings[at], cells)]
    return [*numbered, *codes] if len(said) > 1 and len(codes) == 1 else numbered


def _depths(headings: Sequence[str], data: Sequence[SheetRow]) -> list[int] | None:
    """How deep rows stand by a column of levels or of an outline's numbers, unless they are set in otherwise."""
    own = [row.indent for row in data]
    columns = (depths(heading, [row.cells[place] for row in data]) for place, heading in enumerate(headings))
    deep = next((deep for deep in columns if deep and deep[0] == min(deep) < max(deep)), None)
    return deep if own == deep or len({*own}) == 1 else None


def _amount_places(headings: Sequence[str], data: Sequence[SheetRow], places: Sequence[int]) -> list[int]:
    """Those of some columns that mostly hold figures which are not days, codes or years."""
    found, is_first = list[int](), True
    for place in places:
        heading = headings[place]
        # Each different cell is looked at once.
        cells = Counter(line.cells[place] for line in data)
        filled = {cell: count for cell, count in cells.items() if cell and not is_absent(cell)}
        is_of_amounts = is_side(heading) or speaks_of_amounts(heading)  # 201903 below them is no March
        figures = [cell for cell in filled if is_figure(cell) and (is_of_amounts or not _is_day(cell))]
        is_code = is_code_name(heading) or _are_years(heading, figures)
        if not filled or 2 * sum(filled[cell] for cell in figures) <= sum(filled.values()):
            is_first = is_first and (not filled or is_dated([*filled][:_LOOKED_AT]))
        elif not is_code and not numbers_are_names(headings, place, filled, is_first=is_first):
            found.append(place)
            is_first = False
    return found


def _is_day(cell: str) -> bool:
    return written(cell) is not None and not YEAR.fullmatch(cell)


def _are_years(heading: str, cells: Sequence[str]) -> bool:
    """Whether whole numbers are years and not amounts about two thousand: by their heading, or all of our time."""
    if not all(YEAR.fullmatch(cell) for cell in cells):
        return False
    years = [int(cell) for cell in cells]
    if parted(heading).scenario or speaks_of_money(heading):
        return False
    return says_date(heading) or (bool(years) and min(years) >= 1990 and max(years) - min(years) <= 15)


def _amounts(data: Sequence[SheetRow], places: Sequence[int], numbers: str) -> _Figures:
    """The figures of each row in the convention asked for, else in that which reads more of them, or with points."""
    read = _read_in(data, places, Convention.POINT if numbers == "auto" else Convention(numbers))
    filled = sum(bool(line.cells[place]) for line in data for place in places)
    if numbers == "auto" and _count(read) < filled:
        other = _read_in(data, places, Convention.COMMA)
        read = other if _count(other) > _count(read) else read
    return read


def _read_in(data: Sequence[SheetRow], places: Sequence[int], convention: Convention) -> _Figures:
    return {line.number: [value_of(line.cells[place], convention) for place in places] for line in data}


def _count(read: _Figures) -> int:
    return sum(figure is not None for row in read.values() for figure in row)
