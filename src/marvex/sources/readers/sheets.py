"""Workbooks: which sheet is meant, and its cells as rows."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from datetime import date, datetime
from decimal import Decimal
from fnmatch import fnmatchcase
from itertools import takewhile
from pathlib import Path
from typing import Any, TypeAlias

from python_calamine import CalamineError, CalamineSheet, CalamineWorkbook, SheetVisibleEnum

from marvex.core.errors import Mistake, did_you_mean, listed, setting
from marvex.core.structure.total_names import Naming, naming
from marvex.core.time.calendar import CIVIL, Grain
from marvex.sources.cells import BINARY_DIGITS
from marvex.sources.dates import period_alone, written
from marvex.sources.headings import holds_several_months, side_of
from marvex.sources.readers.bounds import check_workbook
from marvex.sources.readers.file_dates import period_of_sheet, same_days
from marvex.sources.readers.grid import Sheet, letter_of
from marvex.sources.readers.in_time import in_time
from marvex.sources.readers.odd_cells import OddCells, Texts, odd_cells

MOST_OFFERED = 12  # sheets that a message names together
LOOKED_AT = 500  # rows: enough to see whether a sheet holds a table

Rows: TypeAlias = list[list[Any]]


def sheets_of(path: Path, name: str, sheet: str | None) -> tuple[Sheet, ...]:
    """The sheet asked for, or the only one that holds a table; or several whose names are the periods of their rows.

    Parameters
    ----------
    sheet : a name, or several with commas between.

    Raises Mistake where several sheets could serve, or its formulas have no values yet.
    """
    size = check_workbook(path, name)
    try:
        rows, odd, hidden = in_time(lambda: _all_rows(path, name, sheet), size, name)
    except (CalamineError, OSError, ValueError) as problem:
        raise Mistake(f"{name} cannot be read: it is damaged, or no workbook", "Save it again.") from problem
    except BaseException as problem:
        if type(problem).__name__ != "PanicException":  # how its parser gives up
            raise
        raise Mistake(f"{name} cannot be read: its parser gives up on it", "Save it again.") from None
    try:
        titles = _serving(rows, name, sheet, hidden)
    except Mistake:
        for title in rows:  # maybe for want of values
            _check_worked_out(odd, title, name)
        raise
    for title in titles:
        _check_worked_out(odd, title, name)
    first, *others = (_sheet(title, rows[title], odd.get(title, OddCells())) for title in titles)
    told = tuple(
        f"sheet '{one}' is hidden, and {'counts' if one in titles else 'was passed by'}"
        for one in rows
        if sheet is None and one in hidden and _is_table(rows[one])
    )
    return (replace(first, told=told), *others)


def _sheet(title: str, found: Rows, own: OddCells) -> Sheet:
    for row, column in own.percents:
        value = found[row][column] if row < len(found) and column < len(found[row]) else None
        if isinstance(value, float):
            found[row][column] = f"{(Decimal(f'{value:.{BINARY_DIGITS}g}') * 100).normalize():f}%"
    for (row, column), sign in own.currencies.items():
        value = found[row][column] if row < len(found) and column < len(found[row]) else None
        if isinstance(value, float):
            found[row][column] = f"{sign} {Decimal(f'{value:.{BINARY_DIGITS}g}').normalize():f}"
    _cut_to_what_is_shown(found, own)
    return Sheet(
        title=title,
        rows=found,
        shown_in={letter_of(column): _power_of(one) for column, one in own.shown_in.items()},
        hidden_rows=frozenset(row + 1 for row in own.hidden_rows),
        hidden_columns=frozenset(map(letter_of, own.hidden_columns)),
        levels={row + 1: depth for row, depth in own.levels.items()},
        sums=own.sums,
    )


def _cut_to_what_is_shown(found: Rows, own: OddCells) -> None:
    """Writes dates that are shown as a month or a year as that, where none of them is of a day within one."""
    for places, form, grain in ((own.months, "%Y-%m", Grain.MONTH), (own.years, "%Y", Grain.YEAR)):
        cells = [(row, column) for row, column in places if row < len(found) and column < len(found[row])]
        cells = [(row, column) for row, column in cells if isinstance(found[row][column], date)]
        days = {day.date() if isinstance(day := found[row][column], datetime) else day for row, column in cells}
        if any(all(at(day, grain) == day for day in days) for at in (CIVIL.start, CIVIL.end)):
            for row, column in cells:
                found[row][column] = f"{found[row][column]:{form}}"


def _power_of(shown_in: Counter[int]) -> int | None:
    """The power of all figures of a column but one, which may be the year above them."""
    ((power, count), *_) = shown_in.most_common(1)
    return power if shown_in.total() - count <= 1 else None


def _check_worked_out(odd: Mapping[str, OddCells], title: str, name: str) -> None:
    formulas = odd[title].formulas if title in odd else {}
    if formulas:
        (row, column), formula = min(formulas.items())
        more = f" (and {len(formulas) - 1} more)" if len(formulas) > 1 else ""
        raise Mistake(
            f"{name}, sheet '{title}', cell {letter_of(column)}{row + 1}: '{formula[:40]}' was never worked out{more}",
            "Open it in a spreadsheet and save it there, so that its formulas have values.",
        )


def _all_rows(path: Path, name: str, sheet: str | None) -> tuple[dict[str, Rows], Mapping[str, OddCells], set[str]]:
    """The rows of the sheet asked for, or of all, by the sheets' names, what cells have no value, and hidden sheets."""
    book = CalamineWorkbook.from_path(str(path))
    titles = book.sheet_names if sheet is None else _named(sheet, book.sheet_names, name)
    odd = odd_cells(path)
    rows = {title: _rows(book.get_sheet_by_name(title), odd.get(title, OddCells()).errors) for title in titles}
    hidden = {one.name for one in book.sheets_metadata if one.visible is not SheetVisibleEnum.Visible}
    return rows, odd, hidden


def _named(asked: str, titles: Sequence[str], name: str) -> list[str]:
    """The sheets that a call names: one, or several with commas between; `*` stands for any text."""
    if asked in titles:
        return [asked]
    found: list[str] = []
    for one in [part.strip() for part in asked.split(",")]:
        alike = [title for title in titles if title == one] or [
            title for title in titles if "*" in one and fnmatchcase(title, one.replace("[", "[[]"))
        ]
        if not alike:
            hint = did_you_mean(one, titles, f"Its sheets are {listed(titles)}.")
            raise Mistake(f"{name} has no sheet '{one}'", hint)
        found += alike
    return list(dict.fromkeys(found))


def _rows(sheet: CalamineSheet, errors: Texts) -> Rows:
    """All rows, as wide as the widest; a merged cell's value stands in all rows that it covers down a column."""
    rows: Rows = sheet.to_python(skip_empty_area=False)
    for (row, column), text in errors.items():
        if row < len(rows) and column < len(rows[row]):
            rows[row][column] = text
    for (top, left), (bottom, right) in sheet.merged_cell_ranges or ():
        if left == right and top < len(rows) and left < len(rows[top]):
            for below in rows[top + 1 : bottom + 1]:
                below[left] = rows[top][left]
    return rows


def _serving(rows: Mapping[str, Rows], name: str, sheet: str | None, hidden: Collection[str]) -> list[str]:
    """The title of the only sheet that can serve, or those of several that were asked for, or are of a period each.

    Of others, one that is hidden serves only where none else does.
    """
    filled = [title for title, found in rows.items() if found]
    if not filled:
        asked = "" if sheet is None else f", sheet {sheet!r}"
        raise Mistake(f"{name}{asked} is empty", "Name a sheet with a table.")
    # Where only one has anything in it there is no choice, and what it lacks can be told.
    serving = filled if len(filled) == 1 else [title for title in filled if _is_table(rows[title])]
    if sheet is None and not _are_periods(serving):
        serving = [title for title in serving if title not in hidden] or serving
    if len(serving) > 1 and sheet is None and not _are_periods(serving):
        several = listed(f"'{one}'" for one in serving)
        sides = {scenario.casefold(): one for one in serving if (scenario := side_of(one))}
        both = [f"{side}={name}" for side in sides]
        both += [setting("sheet", f"{side}={title}") for side, title in sides.items()]
        together = _together(serving)
        ways = [setting("sheet", serving[0])]
        if len(sides) > 1:
            ways.append(f"against one another as {' '.join(both)}")
        elif len(together) > 1 and (named := _as_asked(together, list(rows))):
            ways.append(f"or as one table with {setting('sheet', named)}")
        raise Mistake(f"{name}: the sheets {several} could each serve", f"Say which: {'; '.join(ways)}.")
    if not serving:
        raise Mistake(f"{name} has no sheet with a table of figures", f"Name one with {setting('sheet')}.")
    return serving


def _together(titles: Sequence[str]) -> Sequence[str]:
    """The sheets of one kind: those of most periods of a length, or all, where none is of a period or holds several.

    Not what by its name is of all the others.
    """
    to_date = [title for title in titles if holds_several_months(title)]
    titles = [title for title in titles if naming(title) is Naming.NONE and title not in to_date]
    kinds: dict[object, list[str]] = {}
    for title in titles:
        if period := period_of_sheet(title):
            alone, found = period_alone(period), written(period)
            kinds.setdefault(alone[0] if alone else found and found.grain, []).append(title)
    return max(kinds.values(), key=len, default=() if to_date else titles)


def _as_asked(wanted: Sequence[str], titles: Sequence[str]) -> str:
    """How several sheets of a book are asked for: by what all their names have in common, which takes next month's
    too; else by their names, where those are few.

    >>> _as_asked(["Sep 2026", "Oct 2026", "Nov 2026"], ["Sep 2026", "Oct 2026", "Nov 2026", "YTD"])
    '* 2026'
    >>> _as_asked(["North", "South"], ["North", "South", "Notes"])
    'North,South'
    """
    words = [one.split() for one in wanted]
    start, end = " ".join(_alike(words)), " ".join(_alike([one[::-1] for one in words])[::-1])
    for pattern in (f"{start} *" if start else "", f"* {end}" if end else "") if len(wanted) > 2 else ():
        if pattern and "," not in pattern and [one for one in titles if fnmatchcase(one, pattern)] == [*wanted]:
            return pattern
    return ",".join(wanted) if len(wanted) <= MOST_OFFERED else ""


def _alike(several: Sequence[Sequence[str]]) -> list[str]:
    """The words that all of several names begin with."""
    return [its[0] for its in takewhile(lambda its: len(set(its)) == 1, zip(*several, strict=False))]


def _are_periods(titles: Sequence[str]) -> bool:
    """Whether each of several titles is of a period of its own."""
    periods = [period for title in titles if (period := period_of_sheet(title))]
    return len(titles) > 1 and len(set(periods)) == len(titles) and same_days(periods) is None


def _is_table(rows: Sequence[Sequence[Any]]) -> bool:
    """Whether at least two rows hold a figure beside something else."""
    wide = [row for row in rows[:LOOKED_AT] if sum(value not in ("", None) for value in row) > 1]
    with_figures = [
        row for row in wide if any(isinstance(value, int | float) and not isinstance(value, bool) for value in row)
    ]
    return len(wide) > 2 and len(with_figures) > 1
