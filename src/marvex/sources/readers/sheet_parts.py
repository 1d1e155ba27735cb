"""Where the headings of a sheet are, which of its rows are data, and what stands around them."""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping, Sequence

from marvex.core.errors import Mistake, listed
from marvex.core.structure.total_names import naming
from marvex.core.values import dataclass
from marvex.sources.cells import is_absent, is_figure
from marvex.sources.dates import month_alone, written
from marvex.sources.headings import holds_several_months, parted, split
from marvex.sources.readers.grid import Grid, SheetRow
from marvex.sources.readers.layout import distinct
from marvex.sources.scales import power_said, without_unit
from marvex.sources.years_said import YEAR, is_year, with_year, year_of_sheet, year_said

UNNAMED = "column {}"  # what a column without a heading is called
_RULED = re.compile(r"\s*:?[-=_–—*+|]{3,}:?\s*")  # a line drawn with signs, as tables of plain text have it
_ODD = re.compile(r"[-+(~<>≈]?\s*(?:[A-Z]{3}\s|[€$£])?\s*\d")  # what begins as a figure does
_YEAR_OF = re.compile(rf"(?:[A-Z]{{3}} ?)?(?:{YEAR.pattern})")  # `ACT 2026` is no amount of a currency
OLDEST, APART = 2000, 2  # of years in headings, and how far they are from one another
OF_LINES = {  # what a column of lines is called
    *(
        "account",
        "accounts",
        "line",
        "line item",
        "item",
        "description",
        "details",
        "name",
        "category",
        "code",
        "year",
    ),
    *("fy", "department", "cost centre", "cost center", "region", "route", "product", "customer", "particulars"),
    *("konto", "bezeichnung", "position", "compte", "libellé", "cuenta", "concepto", "conto", "voce", "omschrijving"),
}
_NOT_YET = {"tbc", "tbd", "tba", "#", "?", "x", "xx", "xxx", "open", "pending", "to follow", "…", "..."}


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class SheetParts:
    """A sheet taken apart.

    Parameters
    ----------
    headings : one text a column; `heading_lines` are the lines that they are from.
    data : the rows of facts or lines, and `below` all lines from the first of them on.
    sections : the heading that stands before a row, by its number; empty where a blank line does.
    first : what may name the rows before any other section.
    titles : what stands above the headings.
    said : what was left out.
    """

    headings: tuple[str, ...]
    heading_lines: Sequence[SheetRow]
    data: Sequence[SheetRow]
    below: Sequence[SheetRow]
    before: SheetRow  # the line above the first of the data
    sections: Mapping[int, str]
    first: str
    titles: tuple[str, ...]
    said: Sequence[str]


def sheet_parts(grid: Grid, name: str, year: str | None, title: str | None = None, *, is_text: bool) -> SheetParts:
    """A sheet taken apart; raises Mistake where it has no rows, or a row of a text file is shifted.

    Parameters
    ----------
    year : that of months that say none.
    title : the sheet's name, which says it where neither a call nor what stands above does.
    """
    lines = [line for line in grid.lines if line.filled and not all(map(_RULED.fullmatch, filter(None, line.cells)))]
    start = _first_data_line(lines)
    if start is None:
        raise Mistake(f"{name} has headings but no rows", "Give a file with rows of data.")
    start = _with_lines_like_years(lines, _with_unreadable_lines(lines, start), name)
    heading_lines, above = _heading_lines(lines, start)
    blocks = _block_headings(lines[start:], heading_lines[-1])
    data, said, sections = _data_lines(lines[start:], heading_lines, blocks)
    if above and above[-1].number == heading_lines[0].number - 1 and above[-1].filled >= heading_lines[-1].filled > 1:
        text = listed([cell for cell in above[-1].cells if cell], 3)
        said.append(f"row {above[-1].number} ({text}) stands above the headings and was left out")
    if is_text:
        _check_widths(data, heading_lines, name, is_even=grid.is_even)
    own = tuple(cell for line in above for cell in line.cells if cell)
    titles = (*(one for one in grid.above if power_said(own) is None or power_said([one]) is None), *own)
    before = lines[start - 1]
    first = _first_block(heading_lines, above, before, names_blocks=bool(blocks))
    if data and (blocks or before.number > heading_lines[-1].number):
        sections = {data[0].number: first, **sections}
    return SheetParts(
        headings=_headings(heading_lines, titles, len(grid.letters), year, name, title),
        heading_lines=heading_lines,
        data=data,
        below=lines[start:],
        before=before,
        sections=sections,
        first=first,
        titles=titles,
        said=said,
    )


def _first_data_line(lines: Sequence[SheetRow]) -> int | None:
    """The first line with figures that are no years, after at least one line that could be headings."""
    above = 0  # cells of the widest line so far: below a title alone, months and a year are headings
    for place, line in enumerate(lines):
        figures = [cell for cell in line.cells if cell and is_figure(cell) and not power_said([cell])]  # £000
        years = [cell for cell in figures if _YEAR_OF.fullmatch(cell)]
        periods = [cell for cell in line.cells if cell and (written(cell) or holds_several_months(cell))]
        has_date = any(written(cell) and not is_figure(cell) for cell in periods)
        dated = above > 1 and len(periods) < line.filled and has_date
        nothing = line.filled > 1 and any(cell and is_absent(cell) for cell in line.cells)
        if place and (nothing or (figures and (len(years) < len(figures) or dated))):
            return place
        above = max(above, line.filled)
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


def _with_lines_like_years(lines: Sequence[SheetRow], start: int, name: str) -> int:
    """The first line with figures, with those just before it whose figures could be years, and are none.

    Raises Mistake where a line below whole headings could be either.
    """
    is_sure = False
    while start > 1:
        line, before = lines[start - 1], lines[start - 2]
        years = {place: cell for place, cell in enumerate(line.cells) if YEAR.fullmatch(cell)}
        names = [place for place, cell in enumerate(line.cells) if cell and not is_figure(cell)]
        if not names and not before.cells[0] and years.pop(0, ""):
            names = [0]  # years down the side
        above = [before.cells[place] for place in years]
        is_whole = all(above) and all(before.cells[place] for place in names[1:])  # merged headings have gaps
        if not years or not names or not is_whole or before.number != line.number - 1:
            break
        if len(years) + len(names) < line.filled or line.cells[names[0]].strip().casefold() in OF_LINES:
            break
        of_lines = before.cells[names[0]].strip().casefold() in OF_LINES
        of_periods = all(parted(one.cells[names[0]]).period for one in lines[start - 1 : start + 1])
        if any(map(is_figure, above)) or of_lines or of_periods:
            # No headings are years below years, nor is what stands below "Account" a heading, or beside the first of
            # several periods.
            is_sure = True
        elif not is_sure:
            if len(set(above)) < len(above):
                break
            known = [int(year) for year in years.values()]
            if max(known) - min(known) <= APART and min(known) >= OLDEST:
                own = f"{listed(years.values(), 3)} of '{line.cells[names[0]]}'"
                raise Mistake(
                    f"{name}, row {line.number}: {own} could be figures, or years below the headings",
                    "Write figures with decimals (2026.00), or leave the first cell of a row of years empty.",
                )
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
    # What is merged with the empty cell below it is the heading of its own column.
    said = [cell for cell, below in zip(upper.cells[1:], lower.cells[1:], strict=True) if cell and below]
    if _are_units(lower):
        return True
    if upper.number != lower.number - 1 or not said:
        return False
    if len(said) == 1:
        return bool(written(said[0])) or parted(said[0]).is_scenario
    repeated = len({cell for cell in lower.cells if cell}) < lower.filled
    known = [cell for cell in said if written(cell) or split(cell) != (None, None) or month_alone(cell)]
    return repeated or (bool(known) and all(cell in known or naming(cell).is_total for cell in said))


def _are_units(line: SheetRow) -> bool:
    """Whether a line says the unit of each column, and nothing else: '£000'."""
    return all(power_said([cell]) and not without_unit(cell) for cell in line.cells if cell)


def _headings(
    heading_lines: Sequence[SheetRow],
    titles: Sequence[str],
    width: int,
    year: str | None,
    name: str,
    sheet: str | None,
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
        for said, of in _years_above(list(dict.fromkeys(filter(is_year, tops))), year).items():
            own = [place for place, top in enumerate(tops) if top == said]
            its = with_year([below[place] for place in own], of, name)
            for place, text in zip(own, its, strict=True):
                tops[place], below[place] = "" if text != below[place] else said, text
        joined = [f"{top} {bottom}".strip() for top, bottom in zip(tops, below, strict=True)]
    year = year or year_said(titles) or year_of_sheet(sheet)
    if year:
        joined = with_year(joined, year, name)
    return distinct([text or UNNAMED.format(place + 1) for place, text in enumerate(joined[:width])])


def _years_above(tops: Sequence[str], asked: str | None) -> dict[str, str]:
    """The year that each of the years above the months stands for: the one said, or the two that were asked for.

    >>> _years_above(["2025", "2026"], "2024/25")
    {'2025': '2024/25', '2026': '2025/26'}
    """
    found = {top: year_said([top]) or top for top in tops}
    first, _, second = (asked or "").partition("/")
    is_plain = bool(second) and all(one.isdecimal() for one in found.values())
    ahead = int(first) - int(found[tops[0]]) if is_plain and tops else None
    if ahead not in (0, -1):
        return found
    starts = {top: int(its) + ahead for top, its in found.items()}
    return {top: f"{start}/{(start + 1) % 100:02}" for top, start in starts.items()}


def _end(line: SheetRow) -> int:
    """How many cells a line has up to its last filled one."""
    return max((place for place, cell in enumerate(line.cells, 1) if cell), default=0)


def _first_block(
    heading_lines: Sequence[SheetRow], above: Sequence[SheetRow], before: SheetRow, *, names_blocks: bool
) -> str:
    """What may name the first rows: a cell alone right below or above the headings, or the first of these.

    Parameters
    ----------
    names_blocks : the same headings come again behind another first cell, which names a block.
    """
    alone = [before] if before.number > heading_lines[-1].number else []
    alone += [line for line in above[-1:] if line.number >= heading_lines[0].number - 2]  # a blank line may follow
    named = [cell for line in alone if line.filled == 1 for cell in line.cells if cell]
    own = heading_lines[-1].cells[0]
    return own if names_blocks and own else next(iter(named), own if parted(own).scenario else "")


def _check_widths(data: Sequence[SheetRow], headings: Sequence[SheetRow], name: str, *, is_even: bool) -> None:
    width = max(_end(line) for line in headings)
    if width == 1 and all(line.filled > 1 for line in data):
        title = headings[-1].cells[0]
        raise Mistake(f"{name}: no headings stand below '{title}'", "Put a line of headings above the rows.")
    for line in data if not is_even else ():
        if (end := _end(line)) > width:
            raise Mistake(
                f"{name}, row {line.number} has {end} cells where the headings have {width}",
                "Mend the row, or put cells that hold the delimiter in quotes.",
            )


def _data_lines(
    lines: Sequence[SheetRow], heading_lines: Sequence[SheetRow], blocks: Collection[int]
) -> tuple[list[SheetRow], list[str], dict[int, str]]:
    """The lines of data, what is said of the others, and the headings and gaps that stand before some of them.

    Parameters
    ----------
    blocks : the numbers of lines that name one.
    """
    behind = heading_lines[-1].cells[1:]
    amounts = _columns_of_figures(lines)
    # Lines of one cell after the last wider one are notes, unless it is an amount.
    last = max((place for place, line in enumerate(lines) if _is_row(line, amounts)), default=-1)
    kept = lines[: last + 1]
    facts = [
        SheetRow(line.number, (line.cells[0], *("" for _ in behind))) if line.number in blocks else line
        for line in kept
        if not _repeats(line, heading_lines) and (line.cells[1:] != behind or line.cells[0])
    ]
    # A line of one cell names the section that follows.
    data = [line for line in facts if _is_row(line, amounts)]
    sections = _sections(facts, amounts)
    said = []
    notes = len(lines) - len(kept)
    if notes:
        said.append(f"row{'s' if notes > 1 else ''} {lines[last + 1].number} and after: notes, left out")
    if len(facts) < len(kept):
        again = len(kept) - len(facts)
        said.append(f"{again} row{'s' if again > 1 else ''} of repeated headings: left out")
    return data, said, sections


def _repeats(line: SheetRow, heading_lines: Sequence[SheetRow]) -> bool:
    """Whether a line is one of the headings again, or most of it with the rest left empty."""
    return any(
        line.cells == one.cells
        or (
            one.filled < 2 * line.filled
            and line.filled > 1
            and all(own in ("", its) for own, its in zip(line.cells, one.cells, strict=False))
        )
        for one in heading_lines
    )


def _block_headings(lines: Sequence[SheetRow], heading: SheetRow) -> frozenset[int]:
    """The numbers of the lines with the same headings behind another first cell, which names the block they begin.

    A year may be the figure of a line, unless others stand beside it, a gap before it, or the same lines below it.
    """
    behind = heading.cells[1:]
    again = [
        at for at, one in enumerate(lines) if one.cells[1:] == behind and one.cells[0] not in ("", heading.cells[0])
    ]
    if all(YEAR.fullmatch(cell) for cell in behind if cell):
        names = [line.cells[0] for line in lines]
        alone = sum(map(bool, behind)) < 2
        again = [
            at
            for at in again
            if at
            and not (alone and lines[at - 1].number == lines[at].number - 1 and {*names[:at]}.isdisjoint(names[at:]))
        ]
    return frozenset(lines[at].number for at in again)


def _columns_of_figures(lines: Sequence[SheetRow]) -> frozenset[int]:
    """The places, behind the first, of which most cells of wider lines are figures."""
    cells = (
        (place, cell) for line in lines if line.filled > 1 for place, cell in enumerate(line.cells) if cell and place
    )
    counted: dict[int, list[bool]] = {}
    for place, cell in cells:
        counted.setdefault(place, []).append(is_figure(cell))
    return frozenset(place for place, are in counted.items() if 2 * sum(are) > len(are))


def _is_row(line: SheetRow, amounts: Collection[int]) -> bool:
    """Whether a line is one of data: of several cells, or of an amount that nothing names."""
    if line.filled > 1:
        return True
    found = next((place for place, cell in enumerate(line.cells) if cell), None)
    return (
        found in amounts
        and found is not None
        and is_figure(line.cells[found])
        and bool(line.cells[found].strip("0.,-– "))
    )


def _sections(lines: Sequence[SheetRow], amounts: Collection[int]) -> dict[int, str]:
    """The heading, or nothing for a blank line, that stands before a line of data, by that line's number."""
    found: dict[int, str] = {}
    waiting: str | None = None
    last = lines[0].number - 1 if lines else 0
    for line in lines:
        if not _is_row(line, amounts):
            waiting = next(cell for cell in line.cells if cell)
        else:
            if waiting is not None or line.number > last + 1:
                found[line.number] = waiting or ""
            waiting = None
        last = line.number
    return found
