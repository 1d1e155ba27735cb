"""From a sheet as people make it to one heading a column and one fact a row.

Finds the heading rows under titles and blank lines, joins two heading rows into one, leaves out
notes, repeated headings and the totals of other rows or columns, and says what it left out.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace

from marvex.core.exact import total
from marvex.core.structure.opposite_names import taken_off
from marvex.core.structure.total_names import (
    Naming,
    is_memo_name,
    is_part_name,
    naming,
    speaks_of_variance,
    without_total_name,
)
from marvex.core.time.calendar import FINEST_FIRST
from marvex.core.values import dataclass
from marvex.sources.cells import Convention, convention_shown
from marvex.sources.columns import are_remarks
from marvex.sources.dates import month_alone, written
from marvex.sources.headings import TO_DATE, parted
from marvex.sources.readers.amounts_asked import left_by_amounts
from marvex.sources.readers.blocks import Blocks, blocks_of, told_of, with_blocks
from marvex.sources.readers.crossed_dates import by_date, crossed
from marvex.sources.readers.drawn_columns import drawn_columns, told_of_drawn, with_amounts
from marvex.sources.readers.filled_down import filled_down
from marvex.sources.readers.grid import Grid, SheetRow
from marvex.sources.readers.inner_columns import with_one_column_each
from marvex.sources.readers.led_columns import led_columns, left_of_led
from marvex.sources.readers.lines_apart import NO_CHECK, Apart
from marvex.sources.readers.made_table import is_dated, is_percent, table_of, without_columns, without_rows
from marvex.sources.readers.other_tables import both_kinds, check_one_table, check_sides_below, other_tables
from marvex.sources.readers.paths import set_in_by_paths, standing
from marvex.sources.readers.rows_of_periods import RowsOfPeriods, rows_of_periods
from marvex.sources.readers.sheet_parts import UNNAMED, SheetParts, sheet_parts
from marvex.sources.readers.sheet_table import FoundTable, Left, SheetTable, Wishes
from marvex.sources.readers.sides_across import sides_across
from marvex.sources.readers.structure_words import said_of_sums
from marvex.sources.readers.structured import filtered, kept_totals, parts_of_lines, rows_apart
from marvex.sources.readers.structured_columns import left_of_columns, lines_across
from marvex.sources.readers.totals_across import check_totals_across

ROWS_LOOKED_INTO = 2000  # for how figures are written


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Tidy:
    """A table with one heading a column, and what was made of the sheet to get there."""

    headings: tuple[str, ...]
    lines: tuple[SheetRow, ...]
    letters: tuple[str, ...]
    said: tuple[str, ...]
    cautions: tuple[str, ...] = ()  # about what was left out without proof
    doubts: tuple[str, ...] = ()  # about what was left out by its figures alone
    found: FoundTable | None = None  # the statement that it is
    kept_totals: tuple[str, ...] = ()  # rows that are totals of others and were kept
    titles: tuple[str, ...] = ()  # what stands above its headings
    shown: Convention | None = None  # how figures are written, as some cell or other shows
    parts_across: tuple[str, ...] = ()  # columns of amounts that are the parts of one that was left out
    total_across: str = ""  # that one
    led_across: tuple[str, ...] = ()  # columns of amounts that lead from the first of them to the last
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
    title: str | None = None,
) -> Tidy:
    """The table in a grid.

    Parameters
    ----------
    name : what to call the source in a message.
    wishes : what a call says of the lines.
    keep_totals : whether totals stay.
    numbers : how figures are written: `auto`, `point` or `comma`.
    year : that of months that say none.
    title : the sheet's name, which says the year where nothing else does.
    is_text : a text file, in which a cell beyond the headings means that a row is shifted.
    """
    sheet, wishes = sheet_parts(grid, name, year, title, is_text=is_text), wishes or Wishes()
    whole = _whole_table(sheet, grid.letters, name, wishes, numbers)
    table, blocks, said = whole.table, whole.blocks, list(whole.said)
    of_periods, texts = RowsOfPeriods(), _texts(table, wishes)
    if not keep_totals or (not wishes.keep_parts and (year or _dated(table, texts))):
        of_periods = rows_of_periods(_additive(table, wishes), texts, wishes, year)
        said += of_periods.said
        table = without_rows(table, of_periods.numbers)
    if not keep_totals:
        check_sides_below(table, wishes.where)
    if not keep_totals and (across := _lines_across(table, whole, wishes, numbers)):
        cautions = (*of_periods.cautions, *across.cautions)
        return replace(across, said=(*said, *across.said), cautions=cautions)
    sides = sides_across(table.headings, wishes.measures)
    if sides:
        wishes = replace(wishes, named=wishes.named.union(sides.asked), amounts=sides.asked)
    led = led_columns(table, wishes, keep_totals=keep_totals)
    if led and not keep_totals and (told := left_of_led(table, led, wishes)) is not None:
        said.append(told[0])
        table = without_columns(table, told[1], numbers)
    compared = filtered(table, wishes)
    columns, in_most = left_of_columns(
        compared, _kinds([table.headings[place] for place in table.places]), wishes.named
    )
    parts_across: tuple[str, ...] = ()
    total_across = ""
    drops_columns = not keep_totals or (not wishes.keep_parts and _are_of_periods(table, columns))
    if drops_columns:
        said += [text for _, text in columns]
        gone = {place for place, _ in columns}
        parts_across, total_across = _parts_across(table, gone)
        table = without_columns(table, gone, numbers)
    table, left, kept = _without_totals(
        table, wishes, whole.by_path, are_blocks=blocks is not None, keep_totals=keep_totals
    )
    if drops_columns:  # a row that is wrong itself was told of first
        check_totals_across(compared, {place for place, _ in columns}, in_most, wishes)
    headings, letters, lines, more = _told_apart(table, left, blocks, by_start=wishes.named_by_start)
    if left.found is None and (sides := sides_across(headings, wishes.measures)):
        headings, letters, lines = sides.rows(headings, letters, lines)
        more.append(sides.told)
        parts_across, total_across, led = (), "", ()
    are_sides = blocks is not None and not blocks.tells_lines_apart
    others = () if are_sides else other_tables(sheet.below, sheet.heading_lines, grid.letters, name)
    both = None
    if left.found is None:
        both = left.both_kinds or both_kinds(filtered(table, wishes), sheet.before, sheet.first)
    return Tidy(
        headings=headings,
        lines=lines,
        letters=letters,
        kept_totals=kept,
        said=(*said, *more, *left.said),
        cautions=(*of_periods.cautions, *whole.stale, *left.cautions, *others),
        doubts=left.doubts,
        found=left.found,
        titles=sheet.titles,
        shown=convention_shown(cell for line in sheet.below[:ROWS_LOOKED_INTO] for cell in line.cells),
        parts_across=parts_across,
        total_across=total_across,
        led_across=led,
        both_kinds=both,
    )


def _lines_across(table: SheetTable, whole: _Whole, wishes: Wishes, numbers: str) -> Tidy | None:
    """The table whose columns are the lines of a statement, without the rows that are totals of others."""
    if lines_across(table, wishes, numbers) is None:
        return None
    as_list, are_blocks = replace(wishes, is_list=True), whole.blocks is not None
    _, left, _ = _without_totals(table, as_list, whole.by_path, are_blocks=are_blocks, keep_totals=False)
    across = lines_across(replace(table, rows=left.rows), wishes, numbers)
    if across is None:
        return None
    return Tidy(
        headings=tuple(across.table.headings),
        lines=tuple(across.table.rows),
        letters=tuple(across.table.letters),
        said=(*left.said, *across.said),
        cautions=(*left.cautions, *across.cautions),
        doubts=left.doubts,
        found=across.found,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class _Whole:
    """The table of a sheet with all its rows, and what was done so that each has its names and its amounts.

    Parameters
    ----------
    by_path : the rows that are sums by their names and their figures.
    stale : cautions of columns that bars are drawn of.
    """

    table: SheetTable
    blocks: Blocks | None
    by_path: Mapping[int, tuple[str, int, int]]
    said: tuple[str, ...]
    stale: tuple[str, ...]


def _whole_table(sheet: SheetParts, letters: Sequence[str], name: str, wishes: Wishes, numbers: str) -> _Whole:
    table, blocks = _first_table(sheet, letters, name, numbers)
    table, of_pairs = with_one_column_each(table, wishes.named, numbers)
    table, by_path = set_in_by_paths(table)
    of_blocks = () if blocks is None or blocks.tells_lines_apart else (told_of(blocks),)
    check_one_table(table, sheet.heading_lines[0].number)
    rows, of_groups = filled_down(table.headings, table.rows, table.places)
    if of_groups:
        table = replace(table, rows=tuple(rows))
    table, of_bars, stale = _without_drawn(table, wishes, numbers)
    said = (*sheet.said, *of_blocks, *of_pairs, *of_groups, *of_bars)
    return _Whole(table=table, blocks=blocks, by_path=by_path, said=said, stale=stale)


def _without_totals(
    table: SheetTable,
    wishes: Wishes,
    by_path: Mapping[int, tuple[str, int, int]],
    *,
    are_blocks: bool,
    keep_totals: bool,
) -> tuple[SheetTable, Left, tuple[str, ...]]:
    """The table without the lines that are parts of others by name, what is left of it without totals, and the totals
    that were kept.

    Parameters
    ----------
    by_path : the rows that are sums by their names and their figures.
    """
    texts = _texts(table, wishes)
    dated = _dated(table, texts)
    parts = {} if wishes.keep_parts else parts_of_lines(table, texts, dated, wishes)
    said = tuple(f"row {at} '{line}' {_what_part_is(line)}" for at, line in parts.items())
    table = without_rows(table, parts)
    apart = Apart() if wishes.keep_parts else rows_apart(_additive(table, wishes), texts, dated, wishes)
    table = without_rows(table, apart.places)
    is_list = not _are_across(table, wishes) and _name_rows(table, texts)
    keeps_rows = keep_totals and (wishes.keep_parts or is_list)
    if keeps_rows and not wishes.keep_parts:
        table, of_rates = _without_rates(table, texts, wishes)
        said += of_rates
    kept = kept_totals(_additive(table, wishes), texts, dated, wishes) if keeps_rows else ()
    left = Left(rows=tuple(table.rows))
    if not keeps_rows:
        left = left_by_amounts(_additive(table, wishes), texts, dated, wishes, are_blocks=are_blocks)
    if not wishes.keep_parts:
        stand = standing(table, by_path) if keeps_rows else set()
        named = {at for at, its in by_path.items() if its[0] in wishes.named}
        left = _without_sums(left, {at: its for at, its in by_path.items() if at not in stand | named})
    said += apart.said
    return table, replace(left, said=(*said, *left.said), cautions=(*apart.cautions, *left.cautions)), kept


def _what_part_is(name: str) -> str:
    if is_memo_name(name):
        return "is a memo line and was left out"
    return "is a part of the line above it and was left out" if is_part_name(name) else NO_CHECK


def _without_rates(table: SheetTable, texts: Sequence[int], wishes: Wishes) -> tuple[SheetTable, tuple[str, ...]]:
    """The rows of a list without those in per cent, which are no movements of what the others are, and what is said."""
    gone = [row for row in table.rows if row.number in table.percents and not wishes.named.intersection(row.cells)]
    if len(gone) == len(table.rows):
        return table, ()
    names = [next((row.cells[at] for at in texts if row.cells[at]), "") for row in gone]
    said = (
        f"row {row.number} '{name}' is in per cent and was left out" for row, name in zip(gone, names, strict=True)
    )
    return replace(table, rows=tuple(row for row in table.rows if row not in gone)), tuple(said)


def _without_sums(left: Left, sums: Mapping[int, tuple[str, int, int]]) -> Left:
    """What is left without the rows that are sums by their names and figures, where they and their parts are still."""
    stay = {row.number for row in left.rows}
    gone = {at: its for at, its in sums.items() if {at, *its[1:]} <= stay}
    if left.found is not None or not gone:
        return left
    rows = tuple(row for row in left.rows if row.number not in gone)
    return replace(left, rows=rows, said=(*left.said, *said_of_sums(gone)))


def _texts(table: SheetTable, wishes: Wishes) -> list[int]:
    """The columns that hold names or dates."""
    free = [place for place in range(len(table.headings)) if place not in table.places]
    named = [place for place in free if place not in table.numbered and not _are_ways(table, place)]
    return (
        [place for place in named if table.headings[place] == wishes.label or not _are_remarks(table, place)]
        or named
        or free
    )


def _dated(table: SheetTable, texts: Sequence[int]) -> set[int]:
    """Those of the columns of names that hold dates."""
    first = table.rows[:20]
    return {place for place in texts if is_dated([line.cells[place] for line in first if line.cells[place]])}


def _are_ways(table: SheetTable, place: int) -> bool:
    """Whether a column says which rows rise, fall and stand, and names none."""
    cells = [row.cells[place].casefold() for row in table.rows]
    return len({*cells}) < len(cells) and bool(taken_off({*cells}))


def _are_remarks(table: SheetTable, place: int) -> bool:
    cells = [row.cells[place] for row in table.rows]
    return are_remarks(table.headings[place], cells, is_behind=place > max(table.places, default=place))


def _are_of_periods(table: SheetTable, totals: Sequence[tuple[int, str]]) -> bool:
    """Whether columns that are totals are of periods: what stands in a list are its rows, and not its quarters."""
    gone = {place for place, _ in totals}
    return all(parted(table.headings[place]).period for place in table.places if place not in gone)


def _are_across(table: SheetTable, wishes: Wishes) -> bool:
    """Whether what is compared stands side by side, by what the call names, so that rows are no lines of a list."""
    named = [table.headings[place] for place in table.places if table.headings[place] in wishes.named]
    return wishes.is_across or (len(named) > 1 and not any(parted(one).period for one in named))


def _name_rows(table: SheetTable, texts: Sequence[int]) -> bool:
    """Whether one column names the rows, as those of a list are, and it does not take several to tell them apart."""
    return len(texts) < 2 or any(len({row.cells[at] for row in table.rows}) == len(table.rows) for at in texts)


def _first_table(
    sheet: SheetParts, letters: Sequence[str], name: str, numbers: str
) -> tuple[SheetTable, Blocks | None]:
    """The table as it stands, with the sides that blocks of it are; and its blocks."""
    headings, data = sheet.headings, sheet.data
    top = sheet.heading_lines[0].number
    blocks = blocks_of(data, sheet.sections, sheet.first, headings, letters, top, name)
    if blocks is not None and headings[0] == sheet.first:
        headings = ("line", *headings[1:])
    if blocks is not None and not blocks.tells_lines_apart:
        headings, letters, data = with_blocks(blocks, headings, letters, data)
    return table_of(name, headings, letters, data, numbers, sheet.sections), blocks


def _without_drawn(
    table: SheetTable, wishes: Wishes, numbers: str
) -> tuple[SheetTable, tuple[str, ...], tuple[str, ...]]:
    """The table without the columns that bars were drawn from, or with what they come to as its amounts; what is said
    of that, and cautions."""
    found = drawn_columns(table, wishes.named)
    if found is None:
        return table, (), ()
    said, cautions = told_of_drawn(table, found)
    gone = [table.headings.index(name) for name in found.columns]
    if found.of:
        return without_columns(table, gone, numbers), (said,), cautions
    headings, rows = with_amounts(table, found, numbers)
    left = without_columns(replace(table, headings=headings, rows=rows), gone[1:], numbers)
    return left, (said,), cautions


def _told_apart(
    table: SheetTable, left: Left, blocks: Blocks | None, *, by_start: bool
) -> tuple[tuple[str, ...], tuple[str, ...], tuple[SheetRow, ...], list[str]]:
    """Headings, letters and rows with what tells them apart once totals are known: months of years, blocks."""
    headings, letters, rows = tuple(table.headings), tuple(table.letters), left.rows
    said: list[str] = []
    halves = None if left.found else crossed(headings, rows, table.places, by_start=by_start)
    if halves is not None:
        said.append(halves.told(headings, rows))
        headings, letters, rows = by_date(headings, letters, rows, halves)
    if blocks is not None and blocks.tells_lines_apart and left.found is None:
        said.append(told_of(blocks))
        headings, letters, rows = with_blocks(blocks, headings, letters, rows)
    return headings, letters, rows, said


def _parts_across(table: SheetTable, gone: Collection[int]) -> tuple[tuple[str, ...], str]:
    """The columns of amounts side by side that together come to one that was left out, in every row, and that one: the
    most that do, or the months of all quarters."""
    places = [at for at, place in enumerate(table.places) if place not in gone]
    wholes = [at for at, place in enumerate(table.places) if place in gone]
    names = [table.headings[place] for place in table.places]
    runs = {whole: run for whole in wholes if (run := _run_of(table, whole, places))}
    of_all = [names[at] for at in places if any(at in run for run in runs.values())]
    longest = max(runs, key=lambda whole: len(runs[whole]), default=None)
    if longest is None or all(map(month_alone, of_all)):
        return tuple(of_all), ""
    return tuple(names[at] for at in runs[longest]), names[longest]


def _run_of(table: SheetTable, whole: int, places: Sequence[int]) -> Sequence[int]:
    """Those of some places side by side that together come to another, in every row; none where there are none."""
    rows = list(table.figures.values())
    for last in range(len(places), 0, -1):
        for first in range(last - 1):
            run = places[first:last]
            if all(row[whole] == total(one for at in run if (one := row[at]) is not None) for row in rows):
                return run
    return ()


def _additive(table: SheetTable, wishes: Wishes) -> SheetTable:
    """The table with only the columns of amounts that say something of sums: no shares and rates, no differences; and
    those that are named."""
    places = [
        at
        for at, place in enumerate(table.places)
        if table.headings[place] in wishes.amounts
        or (
            naming(table.headings[place]) is not Naming.RATIO
            and not (speaks_of_variance(table.headings[place]) and len(table.places) > 2)
            and not is_percent([row.cells[place] for row in table.rows if row.number not in table.percents])
        )
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
    for heading, one, rest, grain in zip(headings, said, rests, grains, strict=True):
        bare = " ".join(TO_DATE.sub(" ", without_total_name(rest)).split()).casefold()
        is_unnamed = heading.startswith(UNNAMED.format(""))  # what has no heading is hardly one of several
        is_total = is_unnamed or bare != rest.casefold() or (grain is not None and grain is not finest)
        kind = bare if grain or bare in known else (one.scenario or "").casefold()
        kinds.append((kind, is_total))
    return kinds
