"""From a sheet as people make it to one heading a column and one fact a row.

Finds the heading rows under titles and blank lines, joins two heading rows into one, leaves out
notes, repeated headings and the totals of other rows or columns, and says what it left out.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from marvex.core.errors import Mistake
from marvex.core.exact import EXACT, ZERO
from marvex.core.structure.total_names import speaks_of_total, without_total_name
from marvex.sources.cells import Convention, is_absent, is_figure, value_of
from marvex.sources.dates import month_alone, written
from marvex.sources.readers.grid import Grid, SheetRow
from marvex.sources.readers.layout import distinct
from marvex.sources.roles import SCENARIO_WORDS, is_code_name, split

_YEAR = re.compile(r"(?:19|20)\d\d")
_YEAR_WITHIN = re.compile(r"\b((?:19|20)\d\d)\b")
UNPROVEN = "though it is the sum of no rows above it"
LEAST_UNNAMED = 3  # rows or columns that have to add up before a nameless one is taken for their total


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Tidy:
    """A table with one heading a column, and what was made of the sheet to get there."""

    headings: tuple[str, ...]
    lines: tuple[SheetRow, ...]
    letters: tuple[str, ...]
    said: tuple[str, ...]
    cautions: tuple[str, ...] = ()  # about what was left out without proof


def tidy(
    grid: Grid,
    name: str,
    named: frozenset[str],
    keep_totals: bool,
    is_text: bool = False,
    numbers: str = "auto",
) -> Tidy:
    """The table in a grid.

    Parameters
    ----------
    name : what to call the source in a message.
    named : headings and names that an option names, and so are never left out.
    keep_totals : whether totals stay.
    numbers : how figures are written: `auto`, `point` or `comma`.
    is_text : a text file, in which a cell beyond the headings means that a row is shifted.
    """
    lines = [line for line in grid.lines if line.filled]
    start = _first_data_line(lines)
    if start is None:
        raise Mistake(f"{name} has headings but no rows", "Give a file with rows of data.")
    heading_lines, above = _heading_lines(lines, start)
    headings = _headings(heading_lines, above, len(grid.letters))
    data, said = _data_lines(lines[start:], heading_lines)
    if is_text:
        _check_widths(data, heading_lines[-1], name)
    places = _amount_places(headings, data)
    if not keep_totals:
        amounts = _amounts(data, places, numbers)
        data, said_of_rows = _without_total_rows(data, amounts, named)
        headings, data, letters, said_of_columns = _without_total_columns(
            headings, data, grid.letters, amounts, named
        )
        cautions = tuple(one for one in said_of_rows if UNPROVEN in one)
        proven = (one for one in said_of_rows if UNPROVEN not in one)
        return Tidy(
            headings=headings,
            lines=tuple(data),
            letters=letters,
            said=(*said, *proven, *said_of_columns),
            cautions=cautions,
        )
    return Tidy(headings=headings, lines=tuple(data), letters=grid.letters, said=tuple(said))


def _first_data_line(lines: Sequence[SheetRow]) -> int | None:
    """The first line with figures that are no years, after at least one line that could be headings."""
    for place, line in enumerate(lines):
        figures = [cell for cell in line.cells if cell and is_figure(cell)]
        years = [cell for cell in figures if _YEAR.fullmatch(cell)]
        dated = any(written(cell) and not is_figure(cell) for cell in line.cells if cell)
        nothing = line.filled > 1 and any(cell and is_absent(cell) for cell in line.cells)
        if place and (nothing or (figures and (len(years) < len(figures) or dated))):
            return place
    # A table of years alone, or one whose figures are unreadable: headings stand first.
    wide = [place for place, line in enumerate(lines) if line.filled > 1]
    return wide[1] if len(wide) > 1 else None


def _heading_lines(lines: Sequence[SheetRow], start: int) -> tuple[list[SheetRow], list[SheetRow]]:
    """The one or two heading lines just above the data, and the lines above them."""
    last = start - 1
    while last > 0 and lines[last].filled < 2 <= max(line.filled for line in lines[:start]):
        last -= 1  # a section's name between headings and figures
    if last and _is_upper_heading(lines[last - 1], lines[last]):
        return [lines[last - 1], lines[last]], list(lines[: last - 1])
    return [lines[last]], list(lines[:last])


def _is_upper_heading(upper: SheetRow, lower: SheetRow) -> bool:
    """Whether the line above the headings says more of them: merged periods, years or scenarios."""
    said = [cell for cell in upper.cells[1:] if cell]
    if upper.number != lower.number - 1 or not said:
        return False
    if len(said) == 1:
        return bool(written(said[0])) or said[0].casefold() in SCENARIO_WORDS
    repeated = len({cell for cell in lower.cells if cell}) < lower.filled
    return repeated or all(written(cell) or split(cell) != (None, None) or month_alone(cell) for cell in said)


def _headings(heading_lines: Sequence[SheetRow], above: Sequence[SheetRow], width: int) -> tuple[str, ...]:
    """One text a column; an upper heading holds for the empty cells to its right, a year above for bare months."""
    if len(heading_lines) == 1:
        joined = list(heading_lines[0].cells)
    else:
        upper, lower = heading_lines
        held, joined = "", []
        for top, bottom in zip(upper.cells, lower.cells, strict=True):
            # An empty cell over a label column does not take the heading of the one before it.
            held = top or (held if bottom else "")
            joined.append(f"{held} {bottom}".strip() if top or held else bottom)
    year = _year_of(above)
    if year:
        joined = [_with_year(text, year) for text in joined]
    return distinct([text or f"column {place + 1}" for place, text in enumerate(joined[:width])])


def _check_widths(data: Sequence[SheetRow], headings: SheetRow, name: str) -> None:
    ends = [max((place for place, cell in enumerate(line.cells, 1) if cell), default=0) for line in (headings, *data)]
    for line, end in zip(data, ends[1:], strict=True):
        if end > ends[0]:
            raise Mistake(
                f"{name}, row {line.number} has {end} cells where the headings have {ends[0]}",
                "Mend the row, or put cells that hold the delimiter in quotes.",
            )


def _year_of(above: Sequence[SheetRow]) -> str | None:
    years = {year for line in above for cell in line.cells for year in _YEAR_WITHIN.findall(cell)}
    return years.pop() if len(years) == 1 else None


def _with_year(heading: str, year: str) -> str:
    """'Jan Budget' as 'Jan 2026 Budget'."""
    words = heading.split()
    if _YEAR_WITHIN.search(heading):
        return heading
    return " ".join(f"{word} {year}" if month_alone(word) else word for word in words)


def _data_lines(lines: Sequence[SheetRow], heading_lines: Sequence[SheetRow]) -> tuple[list[SheetRow], list[str]]:
    repeated = {line.cells for line in heading_lines}
    # Lines of one cell after the last wider one are notes.
    last = max((place for place, line in enumerate(lines) if line.filled > 1), default=-1)
    kept = lines[: last + 1]
    facts = [line for line in kept if line.cells not in repeated]
    # A line of one cell names the section that follows.
    data = [line for line in facts if line.filled > 1]
    said = []
    notes = len(lines) - len(kept)
    if notes:
        said.append(f"row{'s' if notes > 1 else ''} {lines[last + 1].number} and after: notes, left out")
    if len(facts) < len(kept):
        said.append(f"repeated headings were left out {len(kept) - len(facts)} times")
    return data, said


def _amount_places(headings: Sequence[str], data: Sequence[SheetRow]) -> list[int]:
    """The columns that mostly hold figures which are not days, codes or years."""
    found = []
    for place, heading in enumerate(headings):
        # Each different cell is looked at once.
        cells = Counter(line.cells[place] for line in data)
        filled = {cell: count for cell, count in cells.items() if cell and not is_absent(cell)}
        figures = [cell for cell in filled if is_figure(cell) and not (written(cell) and not _YEAR.fullmatch(cell))]
        is_code = is_code_name(heading) or all(_YEAR.fullmatch(cell) for cell in figures)
        if filled and 2 * sum(filled[cell] for cell in figures) > sum(filled.values()) and not is_code:
            found.append(place)
    return found


@dataclass(frozen=True, slots=True)
class _Amounts:
    """The columns of amounts of a table, and the figures of each row, read once; None where a cell has none.

    Parameters
    ----------
    rows : by the rows' numbers, in step with `places`.
    """

    places: tuple[int, ...]
    rows: Mapping[int, Sequence[Decimal | None]]

    def of(self, line: SheetRow) -> list[Decimal]:
        """The figures of a line, absent ones as nothing."""
        return [figure or ZERO for figure in self.rows[line.number]]

    def filled(self, line: SheetRow) -> list[int]:
        """Which of them have a figure in a line."""
        return [place for place, figure in enumerate(self.rows[line.number]) if figure is not None]


def _amounts(data: Sequence[SheetRow], places: Sequence[int], numbers: str) -> _Amounts:
    """The amounts in the convention asked for, or in that in which more of them can be read; point where both do."""
    read = _read_in(data, places, Convention.POINT if numbers == "auto" else Convention(numbers))
    filled = sum(bool(line.cells[place]) for line in data for place in places)
    if numbers == "auto" and _count(read) < filled:
        other = _read_in(data, places, Convention.COMMA)
        read = other if _count(other) > _count(read) else read
    return _Amounts(tuple(places), read)


def _read_in(
    data: Sequence[SheetRow], places: Sequence[int], convention: Convention
) -> dict[int, list[Decimal | None]]:
    return {line.number: [value_of(line.cells[place], convention) for place in places] for line in data}


def _count(read: Mapping[int, Sequence[Decimal | None]]) -> int:
    return sum(figure is not None for row in read.values() for figure in row)


@dataclass(slots=True, kw_only=True)
class _RunningSum:
    """Lines (or columns) that a later one may be the total of, with their sums so far."""

    sums: list[Decimal]
    count: int = 0
    first: int = 0
    last: int = 0

    @classmethod
    def empty(cls, width: int) -> _RunningSum:
        return cls(sums=[ZERO] * width)

    def add(self, number: int, figures: Sequence[Decimal]) -> None:
        self.sums = [EXACT.add(sum_so_far, figure) for sum_so_far, figure in zip(self.sums, figures, strict=True)]
        self.count, self.first, self.last = self.count + 1, self.first or number, number

    def is_whole(self, figures: Sequence[Decimal], among: Iterable[int]) -> bool:
        """Whether figures are the sums so far, in some of the columns."""
        return self.count > 1 and all(self.sums[place] == figures[place] for place in among)


def _without_total_rows(
    data: Sequence[SheetRow], amounts: _Amounts, named: frozenset[str]
) -> tuple[list[SheetRow], list[str]]:
    """The lines less those that are totals of others, and what is said of those left out.

    In a table with dates a row is a fact, and only a total's name makes it one.
    """
    labels = [place for place in range(len(data[0].cells)) if place not in amounts.places] if data else []
    named_lines = {line.number for line in data if any(speaks_of_total(line.cells[one]) for one in labels)}
    dated = any(written(line.cells[place]) for line in data[:20] for place in labels if line.cells[place])
    if not data or (dated and not named_lines):
        return list(data), []
    block, all_kept, totals = (_RunningSum.empty(len(amounts.places)) for _ in range(3))
    kept, said = [], []
    for place, line in enumerate(data):
        figures = amounts.of(line)
        label = next((line.cells[one] for one in labels if line.cells[one]), "")
        # A row that is called a total need not have one of every column, of prices for one.
        among = amounts.filled(line) if line.number in named_lines else range(len(figures))
        runs = (block, all_kept, totals)
        run = next((one for one in runs if any(figures) and one.is_whole(figures, among)), None)
        # Without a name an inner row is taken for a total only where chance would have to be large.
        is_telling = not dated and (place == len(data) - 1 or len(amounts.places) >= LEAST_UNNAMED)
        by_sum = run is not None and run.count >= LEAST_UNNAMED and is_telling
        if label in named or not (line.number in named_lines or by_sum):
            kept.append(line)
            block.add(line.number, figures)
            all_kept.add(line.number, figures)
            continue
        said.append(_said_of_row(line.number, label, run))
        totals.add(line.number, figures)
        block = _RunningSum.empty(len(amounts.places))
    return kept, said


def _said_of_row(number: int, label: str, run: _RunningSum | None) -> str:
    if run is None:
        return f"row {number} '{label}' was left out by its name, {UNPROVEN}"
    return f"row {number} '{label}' is the sum of rows {run.first}–{run.last} and was left out"


def _without_total_columns(
    headings: tuple[str, ...],
    data: list[SheetRow],
    letters: tuple[str, ...],
    amounts: _Amounts,
    named: frozenset[str],
) -> tuple[tuple[str, ...], list[SheetRow], tuple[str, ...], list[str]]:
    """The table less the columns that are totals of others, and what is said of those left out."""
    columns = zip(*(amounts.of(line) for line in data), strict=True)
    block, all_kept = _RunningSum.empty(len(data)), _RunningSum.empty(len(data))
    by_kind: dict[str, _RunningSum] = {}  # those alike but for their period: all of 'Budget', all of 'Actual'
    dropped: dict[int, _RunningSum] = {}
    for place, column in zip(amounts.places, columns, strict=False):
        figures, heading = list(column), headings[place]
        kind = _without_period(heading)
        alike = by_kind.get(without_total_name(kind), all_kept)
        run = next((one for one in (block, alike, all_kept) if any(figures) and _is_sum(one, figures)), None)
        if heading in named or run is None or not (speaks_of_total(heading) or run.count >= LEAST_UNNAMED):
            for one in (block, all_kept, by_kind.setdefault(kind, _RunningSum.empty(len(data)))):
                one.add(place + 1, figures)
            continue
        dropped[place] = replace(run)
        block = _RunningSum.empty(len(data))
    said = [
        f"column {letters[place]} '{headings[place]}' is the sum of columns "
        f"{letters[run.first - 1]}–{letters[run.last - 1]} and was left out"
        for place, run in dropped.items()
    ]
    stay = [place for place in range(len(headings)) if place not in dropped]
    lines = [SheetRow(line.number, tuple(line.cells[place] for place in stay)) for line in data]
    return tuple(headings[place] for place in stay), lines, tuple(letters[place] for place in stay), said


def _is_sum(run: _RunningSum, figures: Sequence[Decimal]) -> bool:
    """Whether a column is the sum of those so far in every row."""
    return run.is_whole(figures, range(len(figures)))


def _without_period(heading: str) -> str:
    """The heading's words that are no period: 'Jan 2026 Budget' and 'Feb 2026 Budget' are both 'Budget'."""
    words = heading.split()
    for size in range(min(2, len(words)), 0, -1):
        for start in range(len(words) - size + 1):
            if written(" ".join(words[start : start + size])):
                return " ".join((*words[:start], *words[start + size :]))
    return heading
