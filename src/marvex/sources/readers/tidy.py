"""From a sheet as people make it to one heading a column and one fact a row.

Finds the heading rows under titles and blank lines, joins two heading rows into one, leaves out
notes, repeated headings and the totals of other rows or columns, and says what it left out.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import TypeAlias

from marvex.core.errors import Mistake, listed
from marvex.core.structure.total_names import (
    Naming,
    naming,
    speaks_of_variance,
    without_total_name,
)
from marvex.core.time.calendar import FINEST_FIRST
from marvex.sources.cells import Convention, convention_shown, is_absent, is_figure, value_of
from marvex.sources.columns import is_code_name, says_date
from marvex.sources.dates import month_alone, written
from marvex.sources.headings import TO_DATE, parted, split
from marvex.sources.readers.blocks import blocks_of, told_of, with_blocks
from marvex.sources.readers.filled_down import filled_down
from marvex.sources.readers.grid import Grid, SheetRow
from marvex.sources.readers.layout import distinct
from marvex.sources.readers.months_down import by_month, month_column
from marvex.sources.readers.other_tables import both_kinds, check_one_table, other_tables
from marvex.sources.readers.sheet_table import FoundTable, Left, SheetTable, Wishes
from marvex.sources.readers.structured import kept_totals, left_of_rows, parts_of_lines
from marvex.sources.readers.structured_columns import left_of_columns, statement_of_columns
from marvex.sources.scales import power_said
from marvex.sources.years_said import is_year, with_year, year_said

_ODD = re.compile(r"[-+(~<>≈]?\s*(?:[A-Z]{3}\s|[€$£])?\s*\d")  # what begins as a figure does
_NOT_YET = {"tbc", "tbd", "tba", "#", "?", "x", "xx", "xxx", "open", "pending", "to follow", "…", "..."}
ROWS_LOOKED_INTO = 2000  # for how figures are written
_YEAR = re.compile(r"(?:19|20)\d\d")

# The figures of each row by its number, in step with the columns of amounts; None where a cell has none.
_Figures: TypeAlias = dict[int, list[Decimal | None]]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Tidy:
    """A table with one heading a column, and what was made of the sheet to get there."""

    headings: tuple[str, ...]
    lines: tuple[SheetRow, ...]
    letters: tuple[str, ...]
    said: tuple[str, ...]
    cautions: tuple[str, ...] = ()  # about what was left out without proof
    found: FoundTable | None = None  # the statement that it is
    kept_totals: tuple[str, ...] = ()  # rows that are totals of others and were kept
    titles: tuple[str, ...] = ()  # what stands above its headings
    shown: Convention | None = None  # how figures are written, as some cell or other shows
    parts_across: tuple[str, ...] = ()  # columns of amounts that are the parts of one that was left out
    both_kinds: tuple[str, str] | None = None  # the headings of income and of costs that are both positive


def tidy(
    grid: Grid,
    name: str,
    wishes: Wishes | None = None,
    *,
    keep_totals: bool = False,
    is_text: bool = False,
    numbers: str = "auto",
    year: str | None = None,
) -> Tidy:
    """The table in a grid.

    Parameters
    ----------
    name : what to call the source in a message.
    wishes : what a call says of the lines.
    keep_totals : whether totals stay.
    numbers : how figures are written: `auto`, `point` or `comma`.
    year : that of months that say none.
    is_text : a text file, in which a cell beyond the headings means that a row is shifted.
    """
    lines = [line for line in grid.lines if line.filled]
    start = _first_data_line(lines)
    if start is None:
        raise Mistake(f"{name} has headings but no rows", "Give a file with rows of data.")
    start = _with_unreadable_lines(lines, start)
    heading_lines, above = _heading_lines(lines, start)
    headings = _headings(heading_lines, above, len(grid.letters), year, name)
    data, said, sections = _data_lines(lines[start:], heading_lines)
    titles = tuple(cell for line in above for cell in line.cells if cell)
    if above and above[-1].number == heading_lines[0].number - 1 and above[-1].filled >= heading_lines[-1].filled > 1:
        text = listed([cell for cell in above[-1].cells if cell], 3)
        said.append(f"row {above[-1].number} ({text}) stands above the headings and was left out")
    if is_text:
        _check_widths(data, heading_lines, name)
    letters, first = tuple(grid.letters), _first_block(heading_lines, above, lines[start - 1])
    if lines[start - 1].number > heading_lines[-1].number:
        sections = {data[0].number: first, **sections}
    blocks = blocks_of(data, sections, first, headings, letters, heading_lines[0].number, name)
    if blocks is not None and headings[0] == first:
        headings = ("line", *headings[1:])
    if blocks is not None and not blocks.tells_lines_apart:
        headings, letters, sided = with_blocks(blocks, headings, letters, data)
        data = list(sided)
        said.append(told_of(blocks))
    table = _table(name, headings, letters, data, numbers, sections)
    check_one_table(table, heading_lines[0].number)
    data, of_groups = filled_down(headings, data, table.places)
    if of_groups:
        said += of_groups
        table = replace(table, rows=tuple(data))
    wishes = wishes or Wishes()
    if not keep_totals and (found := statement_of_columns(table, wishes)):
        return Tidy(headings=headings, lines=tuple(data), letters=letters, said=tuple(said), found=found)
    columns = left_of_columns(table, _kinds([headings[place] for place in table.places]), wishes.named)
    parts_across: tuple[str, ...] = ()
    if not keep_totals:
        said += [text for _, text in columns]
        gone = {place for place, _ in columns}
        stay = [place for place in range(len(headings)) if place not in gone]
        headings = tuple(headings[place] for place in stay)
        letters = tuple(letters[place] for place in stay)
        data = [SheetRow(line.number, tuple(line.cells[place] for place in stay), line.indent) for line in data]
        sums = [[row[at] for at, place in enumerate(table.places) if place in gone] for row in table.figures.values()]
        table = _table(name, headings, letters, data, numbers, sections)
        parts_across = _parts_across(table, sums)
    texts = [place for place in range(len(headings)) if place not in table.places]
    dated = {place for place in texts if _is_dated([line.cells[place] for line in data[:20] if line.cells[place]])}
    parts = {} if wishes.keep_parts else parts_of_lines(table, texts, dated, wishes)
    if parts:
        said += [f"row {at} '{line}' is a part of the line above it and was left out" for at, line in parts.items()]
        data = [line for line in data if line.number not in parts]
        table = replace(table, rows=tuple(data))
    kept = kept_totals(_additive(table), texts, dated, wishes) if keep_totals else ()
    left = Left(rows=tuple(data)) if keep_totals else left_of_rows(_additive(table), texts, dated, wishes)
    letters, rows = tuple(table.letters), left.rows
    # Regions and the like are told apart once the totals of each are known.
    if blocks is not None and blocks.tells_lines_apart and left.found is None:
        headings, letters, rows = with_blocks(blocks, headings, letters, rows)
        said.append(told_of(blocks))
    month = None if left.found else month_column(headings, rows, table.places)
    if month is not None:
        said.append(f"{headings[month]} and the years across are read as dates")
        headings, letters, rows = by_month(headings, letters, rows, table.places, month)
    return Tidy(
        headings=headings,
        lines=rows,
        letters=letters,
        kept_totals=kept,
        said=(*said, *left.said),
        cautions=(*left.cautions, *(() if blocks else other_tables(lines[start:], heading_lines, grid.letters))),
        found=left.found,
        titles=titles,
        shown=convention_shown(cell for line in lines[start:][:ROWS_LOOKED_INTO] for cell in line.cells),
        parts_across=parts_across,
        both_kinds=both_kinds(table, lines[start - 1]) if left.found is None else None,
    )


def _is_dated(cells: Sequence[str]) -> bool:
    return 2 * sum(written(cell) is not None for cell in cells) > len(cells)


def _table(
    name: str,
    headings: Sequence[str],
    letters: Sequence[str],
    data: Sequence[SheetRow],
    numbers: str,
    sections: Mapping[int, str],
) -> SheetTable:
    """The rows with the figures of their columns of amounts."""
    places = _amount_places(headings, data)
    percents = (line.number for line in data if _is_percent([line.cells[place] for place in places]))
    return SheetTable(
        name=name,
        headings=tuple(headings),
        letters=tuple(letters),
        rows=tuple(data),
        places=tuple(places),
        figures=_amounts(data, places, numbers),
        percents=frozenset(percents),
        sections=sections,
    )


def _parts_across(table: SheetTable, sums: Sequence[Sequence[Decimal | None]]) -> tuple[str, ...]:
    """The columns of amounts, where all of them together come to one that was left out, in every row."""
    rows = list(table.figures.values())
    wholes = [sum((one for one in row if one is not None), Decimal(0)) for row in rows]
    is_whole = any(
        all(one[at] == whole for one, whole in zip(sums, wholes, strict=True)) for at in range(len(sums[0]))
    )
    return tuple(table.headings[place] for place in table.places) if rows and is_whole else ()


def _is_percent(cells: Sequence[str]) -> bool:
    filled = [cell for cell in cells if cell]
    return bool(filled) and 2 * sum("%" in cell for cell in filled) > len(filled)


def _additive(table: SheetTable) -> SheetTable:
    """The table with only the columns of amounts that say something of sums: no shares and rates, no differences."""
    places = [
        at
        for at, place in enumerate(table.places)
        if naming(table.headings[place]) is not Naming.RATIO
        and not (speaks_of_variance(table.headings[place]) and len(table.places) > 2)
        and not _is_percent([row.cells[place] for row in table.rows if row.number not in table.percents])
    ]
    if len(places) == len(table.places):
        return table
    return replace(
        table,
        places=tuple(table.places[at] for at in places),
        figures={number: [row[at] for at in places] for number, row in table.figures.items()},
    )


def _kinds(headings: Sequence[str]) -> list[tuple[str, bool]]:
    """What each column is beside its period, its scenario at least, and whether its heading speaks of a total.

    'Jan 2026 Budget' is of the kind 'budget', and so is 'Total budget', which is a total by its name.
    """
    said = [parted(heading) for heading in headings]
    rests = [" ".join(word for word in (one.scenario, one.rest) if word) for one in said]
    grains = [found.grain if one.period and (found := written(one.period)) else None for one in said]
    known = {rest.casefold() for rest, grain in zip(rests, grains, strict=True) if grain}
    finest = min((grain for grain in grains if grain), key=FINEST_FIRST.index, default=None)
    kinds = []
    for one, rest, grain in zip(said, rests, grains, strict=True):
        bare = " ".join(TO_DATE.sub(" ", without_total_name(rest)).split()).casefold()
        is_total = bare != rest.casefold() or (grain is not None and grain is not finest)
        kind = bare if grain or bare in known else (one.scenario or "").casefold()
        kinds.append((kind, is_total))
    return kinds


def _first_data_line(lines: Sequence[SheetRow]) -> int | None:
    """The first line with figures that are no years, after at least one line that could be headings."""
    for place, line in enumerate(lines):
        figures = [cell for cell in line.cells if cell and is_figure(cell) and not power_said([cell])]  # £000
        years = [cell for cell in figures if _YEAR.fullmatch(cell)]
        dated = any(written(cell) and not is_figure(cell) for cell in line.cells if cell)
        nothing = line.filled > 1 and any(cell and is_absent(cell) for cell in line.cells)
        if place and (nothing or (figures and (len(years) < len(figures) or dated))):
            return place
    # A table of years alone, or one whose figures are unreadable: headings stand first.
    wide = [place for place, line in enumerate(lines) if line.filled > 1]
    return wide[1] if len(wide) > 1 else None


def _with_unreadable_lines(lines: Sequence[SheetRow], start: int) -> int:
    """The first line with figures, or with what stands in their place, just below what could be headings.

    `1,234*` and `TBC` are no figures, and no headings either: their row is one that cannot be read.
    """
    places = [place for place, cell in enumerate(lines[start].cells) if cell and is_figure(cell)]
    while start > 1:
        line, before = lines[start - 1], lines[start - 2]
        cells = [line.cells[place] for place in places]
        is_said = any(parted(cell).is_said or written(cell) or power_said([cell]) for cell in cells[:1])
        is_odd = len(cells) == 1 and _ODD.match(cells[0]) and not is_said
        is_row = before.number == line.number - 1 and before.filled >= line.filled > 1
        if not is_row or not cells or not (is_odd or all(cell.casefold() in _NOT_YET for cell in cells)):
            break
        start -= 1
    return start


def _heading_lines(lines: Sequence[SheetRow], start: int) -> tuple[list[SheetRow], list[SheetRow]]:
    """The one or two heading lines just above the data, and the lines above them."""
    last = start - 1
    widest = max(line.filled for line in lines[:start])
    while last > 0 and lines[last].filled < 2 <= widest and not _are_units(lines[last]):
        last -= 1  # a section's name between headings and figures
    if last and _is_upper_heading(lines[last - 1], lines[last]):
        return [lines[last - 1], lines[last]], list(lines[: last - 1])
    return [lines[last]], list(lines[:last])


def _is_upper_heading(upper: SheetRow, lower: SheetRow) -> bool:
    """Whether the line above the headings says more of them: merged periods, years or scenarios."""
    said = [cell for cell in upper.cells[1:] if cell]
    if _are_units(lower):
        return True
    if upper.number != lower.number - 1 or not said:
        return False
    if len(said) == 1:
        return bool(written(said[0])) or parted(said[0]).is_scenario
    repeated = len({cell for cell in lower.cells if cell}) < lower.filled
    return repeated or all(written(cell) or split(cell) != (None, None) or month_alone(cell) for cell in said)


def _are_units(line: SheetRow) -> bool:
    """Whether a line says the unit of each column, and nothing else: '£000'."""
    return all(power_said([cell]) for cell in line.cells if cell)


def _headings(
    heading_lines: Sequence[SheetRow], above: Sequence[SheetRow], width: int, year: str | None, name: str
) -> tuple[str, ...]:
    """One text a column; an upper heading holds for the empty cells to its right, a year above for bare months."""
    if len(heading_lines) == 1:
        joined = list(heading_lines[0].cells)
    else:
        upper, lower = heading_lines
        held, tops = "", list[str]()
        for top, bottom in zip(upper.cells, lower.cells, strict=True):
            # An empty cell over a label column does not take the heading of the one before it.
            held = top or (held if bottom else "")
            tops.append(held)
        below = list(lower.cells)
        for said in dict.fromkeys(filter(is_year, tops)):
            own = [place for place, top in enumerate(tops) if top == said]
            its = with_year([below[place] for place in own], year_said([said]) or said, name)
            for place, text in zip(own, its, strict=True):
                tops[place], below[place] = "" if text != below[place] else said, text
        joined = [f"{top} {bottom}".strip() for top, bottom in zip(tops, below, strict=True)]
    year = year or year_said(cell for line in above for cell in line.cells)
    if year:
        joined = with_year(joined, year, name)
    return distinct([text or f"column {place + 1}" for place, text in enumerate(joined[:width])])


def _end(line: SheetRow) -> int:
    """How many cells a line has up to its last filled one."""
    return max((place for place, cell in enumerate(line.cells, 1) if cell), default=0)


def _first_block(heading_lines: Sequence[SheetRow], above: Sequence[SheetRow], before: SheetRow) -> str:
    """What may name the first rows: a cell alone right below or above the headings, or the first of these."""
    alone = [before] if before.number > heading_lines[-1].number else []
    alone += [line for line in above[-1:] if line.number == heading_lines[0].number - 1]
    named = [cell for line in alone if line.filled == 1 for cell in line.cells if cell]
    own = heading_lines[-1].cells[0]
    return next(iter(named), own if parted(own).scenario else "")


def _check_widths(data: Sequence[SheetRow], headings: Sequence[SheetRow], name: str) -> None:
    width = max(_end(line) for line in headings)
    for line in data:
        if (end := _end(line)) > width:
            raise Mistake(
                f"{name}, row {line.number} has {end} cells where the headings have {width}",
                "Mend the row, or put cells that hold the delimiter in quotes.",
            )


def _data_lines(
    lines: Sequence[SheetRow], heading_lines: Sequence[SheetRow]
) -> tuple[list[SheetRow], list[str], dict[int, str]]:
    """The lines of data, what is said of the others, and the headings and gaps that stand before some of them."""
    repeated = {line.cells for line in heading_lines}
    behind = heading_lines[-1].cells[1:]
    # Lines of one cell after the last wider one are notes.
    last = max((place for place, line in enumerate(lines) if line.filled > 1), default=-1)
    kept = lines[: last + 1]
    # The same headings behind another first cell begin a block, which that may name.
    facts = [
        SheetRow(line.number, (line.cells[0], *("" for _ in behind))) if line.cells[1:] == behind else line
        for line in kept
        if line.cells not in repeated and (line.cells[1:] != behind or line.cells[0])
    ]
    # A line of one cell names the section that follows.
    data = [line for line in facts if line.filled > 1]
    sections = _sections(facts)
    said = []
    notes = len(lines) - len(kept)
    if notes:
        said.append(f"row{'s' if notes > 1 else ''} {lines[last + 1].number} and after: notes, left out")
    if len(facts) < len(kept):
        said.append(f"repeated headings were left out {len(kept) - len(facts)} times")
    return data, said, sections


def _sections(lines: Sequence[SheetRow]) -> dict[int, str]:
    """The heading, or nothing for a blank line, that stands before a line of data, by that line's number."""
    found: dict[int, str] = {}
    waiting: str | None = None
    last = lines[0].number - 1 if lines else 0
    for line in lines:
        if line.filled == 1:
            waiting = next(cell for cell in line.cells if cell)
        else:
            if waiting is not None or line.number > last + 1:
                found[line.number] = waiting or ""
            waiting = None
        last = line.number
    return found


def _amount_places(headings: Sequence[str], data: Sequence[SheetRow]) -> list[int]:
    """The columns that mostly hold figures which are not days, codes or years."""
    found = []
    for place, heading in enumerate(headings):
        # Each different cell is looked at once.
        cells = Counter(line.cells[place] for line in data)
        filled = {cell: count for cell, count in cells.items() if cell and not is_absent(cell)}
        figures = [cell for cell in filled if is_figure(cell) and not (written(cell) and not _YEAR.fullmatch(cell))]
        is_code = is_code_name(heading) or _are_years(heading, figures)
        if filled and 2 * sum(filled[cell] for cell in figures) > sum(filled.values()) and not is_code:
            found.append(place)
    return found


def _are_years(heading: str, cells: Sequence[str]) -> bool:
    """Whether whole numbers are years and not amounts about two thousand: by their heading, or all of our time."""
    if not all(_YEAR.fullmatch(cell) for cell in cells):
        return False
    years = [int(cell) for cell in cells]
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
