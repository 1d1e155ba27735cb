"""A sheet as people make it: cells with their places, before anyone has said what they are.

Every cell is text: a workbook's figures as their shortest decimals, its dates as ISO days.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import field
from datetime import date, datetime
from decimal import Decimal
from itertools import product
from math import floor, isfinite, log10
from typing import Any

from marvex.core.errors import Mistake, listed, setting
from marvex.core.structure.total_names import SET_IN, Naming, naming
from marvex.core.values import dataclass
from marvex.sources.cells import BINARY_DIGITS, is_figure, typed_figures
from marvex.sources.dates import month_alone
from marvex.sources.headings import split
from marvex.sources.scales import power_said
from marvex.sources.years_said import is_year

_RANGE = re.compile(r"([A-Za-z]{1,3})(\d+):([A-Za-z]{1,3})(\d+)")
_SET_IN = re.compile(rf"(?:{SET_IN})?[ \t\u00a0\u3000]*")
BLANKS = 2  # that stand for one level of a sheet


@dataclass(frozen=True, slots=True)
class SheetRow:
    """One row of a grid: its number in the source, counted from 1, its cells, and how far its first text is set in."""

    number: int
    cells: tuple[str, ...]
    indent: int = 0

    @property
    def filled(self) -> int:
        return sum(1 for cell in self.cells if cell)


@dataclass(frozen=True, slots=True, eq=False)
class Grid:
    """All lines, each as wide as the widest, the letter of each column, and what stands above the cells named.

    Parameters
    ----------
    is_even : the lines were all as wide as they are, so that no cell of one is shifted.
    beyond : that the table goes on beyond the cells named, as where a month has come in since.
    """

    lines: tuple[SheetRow, ...]
    letters: tuple[str, ...]
    above: tuple[str, ...] = ()
    is_even: bool = False
    beyond: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Sheet:
    """The rows of a sheet, and what its looks say of them.

    Parameters
    ----------
    title : of a sheet of a workbook.
    first : the number of its first row; 0 of headings that are no row of their source.
    shown_in : the power of ten that a column's figures are shown in by their format alone, by the column's letters;
        None where some are and some are not.
    hidden_rows, hidden_columns : by their numbers and letters; not those of a group that is folded up.
    levels : how deep rows are set in by their look, by their numbers.
    sums : the rows that the formulas of a row add up, by its number.
    told : cautions of sheets that are hidden.
    """

    title: str | None
    rows: Sequence[Sequence[Any]]
    first: int = 1
    shown_in: Mapping[str, int | None] = field(default_factory=dict)
    hidden_rows: frozenset[int] = frozenset()
    hidden_columns: frozenset[str] = frozenset()
    levels: Mapping[int, int] = field(default_factory=dict)
    sums: Mapping[int, frozenset[int]] = field(default_factory=dict)
    told: tuple[str, ...] = ()

    def cautions(self, numbers: Iterable[int], letters: Iterable[str]) -> tuple[str, ...]:
        """That some of the rows and columns that count are not seen."""
        where = "" if self.title is None else f"sheet '{self.title}': "
        hidden = (
            ("row", [str(one) for one in numbers if one in self.hidden_rows]),
            ("column", [one for one in letters if one in self.hidden_columns]),
        )
        return self.told + tuple(
            f"{where}hidden {kind}{'s' if len(found) > 1 else ''} {listed(found, 4)} "
            f"{'count' if len(found) > 1 else 'counts'} as well"
            for kind, found in hidden
            if found
        )


def grid_of(
    rows: Iterable[Sequence[Any]],
    within: str | None = None,
    numbers: str = "auto",
    levels: Mapping[int, int] | None = None,
    first: int = 1,
) -> Grid:
    """The rows as a grid, cut to the cells named (`B4:N40`) and rid of empty columns.

    Figures are written with the decimal sign that `numbers` asks for, or that the texts of their column have.

    Parameters
    ----------
    levels : how deep rows are set in beside the blanks before their names, by their numbers.
    first : the number of the first row.

    Raises Mistake where `within` is not a range of cells.
    """
    said: dict[Any, str] = {}  # of what is no number: most texts and dates of a sheet come again and again
    rows = list(rows)
    deep = levels or {}
    indents = [_indent(row) + BLANKS * deep.get(number, 0) for number, row in enumerate(rows, first)]
    values = list(without_noise(rows))
    texts = [[_text(value, said) for value in row] for row in values]
    width = max((len(row) for row in texts), default=0)
    for place in range(width):
        both = [(row, own[place]) for row, own in zip(texts, values, strict=True) if place < len(own)]
        figures = [row for row, value in both if isinstance(value, float | Decimal)]
        beside = (row[place] for row, value in both if isinstance(value, str))
        written = typed_figures([row[place] for row in figures], beside, numbers)
        for row, text in zip(figures, written, strict=True):
            row[place] = text
    first_row, last_row, first_column, last_column = _range(within, len(texts), width)
    chosen = [
        (row if len(row) == width else [*row, *[""] * (width - len(row))])[first_column:last_column]
        for row in texts[first_row:last_row]
    ]
    used = [place for place in range(last_column - first_column) if any(row[place] for row in chosen)]
    if len(used) < last_column - first_column:
        chosen = [[row[place] for place in used] for row in chosen]
    lines = tuple(
        SheetRow(number, tuple(row), indent)
        for number, (row, indent) in enumerate(
            zip(chosen, indents[first_row:last_row], strict=True), start=first_row + first
        )
    )
    above = _above(texts[:first_row], first_column, last_column)
    letters = tuple(letter_of(first_column + place) for place in used)
    beyond = () if within is None else tuple(_beyond(texts, within, (first_row, last_row, first_column, last_column)))
    return Grid(lines, letters, above, is_even=all(len(row) == width for row in texts if any(row)), beyond=beyond)


def _beyond(texts: Sequence[Sequence[str]], within: str, ends: tuple[int, int, int, int]) -> Iterator[str]:
    """That right behind the cells named stands another period of theirs, or right below them another line.

    Nothing where they end with a total, as what they are of does.
    """
    first_row, last_row, first, last = ends

    def cell(row: int, place: int) -> str:
        return texts[row][place] if row < len(texts) and place < len(texts[row]) else ""

    def figures(rows: Iterable[int], places: Iterable[int]) -> int:
        return sum(is_figure(cell(row, place)) for row, place in product(rows, places))

    rows, places = range(first_row, last_row), range(first, last)
    heads = next((row for row in rows if sum(bool(cell(row, place)) for place in places) > 1), first_row)
    more: list[str] = []
    while _is_period(cell(heads, last - 1)) and _is_period(cell(heads, last + len(more))):
        place = last + len(more)
        if 2 * figures(rows[heads - first_row + 1 :], [place]) < figures(rows[heads - first_row + 1 :], [last - 1]):
            break
        more.append(f"column {letter_of(place)} '{cell(heads, place)}'")
    below: list[str] = []
    while naming(_name(cell(last_row - 1, place) for place in places)) is Naming.NONE:
        row = last_row + len(below)
        name = _name(cell(row, place) for place in places)
        is_line = bool(name) and 2 * figures([row], places) >= max(1, figures([last_row - 1], places))
        if not is_line or naming(name).is_total:
            break
        below.append(f"row {row + 1} '{name}'")
    if more or below:
        yield f"the table goes on beyond {setting('cells', within)}: {listed([*more, *below], 4)}"


def _is_period(heading: str) -> bool:
    return split(heading)[0] is not None or month_alone(heading) is not None


def _name(cells: Iterable[str]) -> str:
    """The first text of a row, where no figure stands before it."""
    first = next(filter(None, cells), "")
    return "" if is_figure(first) else first


def _above(rows: Sequence[Sequence[str]], first: int, last: int) -> tuple[str, ...]:
    """The texts above a range: from the last row with a figure on, and the unit that the sheet begins with.

    Of those nearest a title that is alone in its row counts, and else what stands over the range.
    """
    are_figures = [
        any(is_figure(cell) and not is_year(cell) and power_said([cell]) is None for cell in row if cell)
        for row in rows
    ]
    start = max((place for place, is_so in enumerate(are_figures, 1) if is_so), default=0)
    found: list[str] = []
    for row in rows[start:]:
        filled = [cell for cell in row if cell]
        found += filled if len(filled) == 1 else [cell for cell in row[first:last] if cell]
    if power_said(found) is None:
        begun = rows[: are_figures.index(True)] if start else ()
        found += [cell for row in begun for cell in row if cell and power_said([cell]) is not None]
    return tuple(found)


def _indent(row: Sequence[Any]) -> int:
    """How far a name of a row is set in, of those that stand before its figures: by blanks, a dash or a dot."""
    names: list[str] = []
    for value in row:
        if isinstance(value, str) and any(map(str.isalpha, value)):
            names.append(value)
        elif names and value not in ("", None):
            break
    return max((_SET_IN.match(one).end() for one in names), default=0)  # type: ignore[union-attr]


def without_noise(rows: Sequence[Sequence[Any]]) -> Iterator[list[Any]]:
    """Rows whose binary figures have no more decimals than their column's largest figure leaves of 15 digits.

    So spreadsheets show and compare them: 412522.0000000001 is 412522.
    """
    largest: dict[int, float] = {}
    for row in rows:
        for column, value in enumerate(row):
            if isinstance(value, float) and isfinite(value):
                largest[column] = max(largest.get(column, 0.0), abs(value))
    decimals = {column: max(0, BINARY_DIGITS - 1 - floor(log10(size))) for column, size in largest.items() if size}
    for row in rows:
        yield [
            round(value, decimals[column]) if isinstance(value, float) and column in decimals else value
            for column, value in enumerate(row)
        ]


def _text(value: Any, said: dict[Any, str]) -> str:
    if isinstance(value, int | float):  # of which some are equal though they are not the same: 1, 1.0 and yes
        return text_of(value)
    found = said.get(value)
    if found is None:
        found = said[value] = text_of(value)
    return found


def text_of(value: Any) -> str:
    """A cell's value as text."""
    match value:
        case str():
            return " ".join(value.split())
        case float():
            return str(int(value)) if value.is_integer() and abs(value) < 1e15 else plain(value)
        case None:
            return ""
        case bool():
            return str(value).lower()
        case Decimal():
            whole, point, rest = f"{value:f}".partition(".")
            return f"{whole}{point}{rest[:2]}{rest[2:].rstrip('0')}"  # 1.000 would not show what its point is
        case datetime():
            return value.date().isoformat()
        case date():
            return value.isoformat()
    return " ".join(str(value).split())


def plain(value: float) -> str:
    """A binary figure as its shortest decimal, without an exponent.

    >>> plain(1e-05), plain(0.1)
    ('0.00001', '0.1')
    """
    return format(Decimal(repr(value)), "f") if abs(value) < 1 else repr(value)


def letter_of(place: int) -> str:
    """The letters of a column, counted from 0: 27 is 'AB'."""
    letters = ""
    place += 1
    while place:
        place, rest = divmod(place - 1, 26)
        letters = chr(ord("A") + rest) + letters
    return letters


def _range(within: str | None, rows: int, width: int) -> tuple[int, int, int, int]:
    if within is None:
        return 0, rows, 0, width
    found = _RANGE.fullmatch(within.strip())
    if not found:
        raise Mistake(f"{setting('cells')} '{within}' is not a range of cells", "Write it as B4:N40.")
    left, top, right, bottom = found.groups()
    first, last = place_of(left), place_of(right)
    if first > last or int(top) > int(bottom) or first >= width or int(top) > rows:
        raise Mistake(
            f"{setting('cells')} {within} holds no cell of the sheet", f"It ends at {letter_of(width - 1)}{rows}."
        )
    return int(top) - 1, min(int(bottom), rows), first, min(last + 1, width)


def place_of(letters: str) -> int:
    """The place of a column, counted from 0: 'AB' is 27."""
    place = 0
    for letter in letters.upper():
        place = place * 26 + ord(letter) - ord("A") + 1
    return place - 1
