"""The variance table as a workbook: amounts as numbers, changes, ratios and totals as live formulas, bands as fills.

A spreadsheet's numbers are binary, of 15 digits: what is written is each exact amount as near as that comes.
"""

from __future__ import annotations

import io
import math
from collections.abc import Iterator, Mapping, Sequence
from datetime import datetime
from decimal import Decimal
from fractions import Fraction
from functools import cached_property
from itertools import groupby
from typing import Any

import xlsxwriter
from xlsxwriter.utility import xl_col_to_name, xl_rowcol_to_cell

from marvex.core.compare.across import across
from marvex.core.compare.point import Kind, Point
from marvex.core.compare.result import Analysis
from marvex.core.exact import exactly, total
from marvex.core.rules.bands import NO_BASE, NO_CURRENT, Tone
from marvex.core.rules.judging import Judged
from marvex.core.structure.statement import Statement, line_of
from marvex.core.words.printable import printable
from marvex.core.words.units import FigureFormat, Signs, Unit
from marvex.core.words.wording import state_words
from marvex.tables.band_formulas import RowOfSheet, band_formula, can_be_said
from marvex.tables.files import table_headings
from marvex.tables.rows import ComparisonColumns, Row, driver_amount, groups_of, has_panels, ratio_text, table_rows

MADE = datetime(2000, 1, 1)
HEAD = 3  # the row of headings: above it title, subtitle and an empty row
WIDEST_NAME, COLUMN = 48, 12  # letters
LINE = 16  # points of a line of headings
FIXED = "The bands are as they were found: what the rule asks, a row's own cells do not tell."
TYPE = {"font_name": "Calibri", "font_size": 11}
DARK, LIGHT, SOFT = "#22242C", "#FFFFFF", "#6A6B73"


def workbook(analysis: Analysis, words: tuple[str, str, str], fills: Mapping[Tone, str]) -> bytes:
    """A workbook of one sheet with the table.

    Parameters
    ----------
    words : title, subtitle and foot.
    fills : the colours of the bands' tones.
    """
    content = io.BytesIO()
    book = xlsxwriter.Workbook(content, {"in_memory": True})
    book.set_properties({"title": words[0], "created": MADE})
    TableSheet(book, "Table", analysis, fills).write(words)
    book.close()
    return content.getvalue()


class TableSheet:
    """One sheet of a workbook, with one table."""

    def __init__(self, book: Any, name: str, analysis: Analysis, fills: Mapping[Tone, str]) -> None:
        self.notes, self.analysis = analysis.notes, across(analysis)
        self.book, self.fills = book, fills
        self.sheet = book.add_worksheet(name)
        self.rows = table_rows(self.analysis)
        self.groups = groups_of(self.analysis)
        self.names = 2 if has_panels(self.analysis) else 1
        self.formats: dict[tuple[tuple[str, Any], ...], Any] = {}

    @property
    def figures(self) -> FigureFormat:
        return self.analysis.figures.in_words

    @property
    def first(self) -> int:
        return HEAD + 1

    def write(self, words: tuple[str, str, str]) -> None:
        """The whole sheet."""
        sheet, (title, subtitle, foot) = self.sheet, words
        sheet.write_string(0, 0, title, self._format(bold=True, font_size=14))
        sheet.write_string(1, 0, subtitle, self._format(font_color=SOFT))
        headings = ["Panel"] * (self.names - 1) + ["", *table_headings(self.groups)]
        bands = {place for (_, what), place in self._places.items() if what == "band"}
        for column, heading in enumerate(headings):
            look = {"align": "left", "indent": 1} if column in bands else {"align": "right"}
            look = {"align": "left"} if column < self.names else look
            sheet.write_string(HEAD, column, heading, self._format(bold=True, text_wrap=True, bottom=1, **look))
        sheet.set_row(HEAD, LINE * max(math.ceil(len(heading) / COLUMN) for heading in headings))
        for place, row in enumerate(self.rows):
            self._write_row(self.first + place, row)
        last = self.first + len(self.rows)
        self._paint_bands()
        for place, note in enumerate((*self.notes, *self._bands_note, foot)):
            sheet.write_string(last + 1 + place, 0, note, self._format(font_color=SOFT))
        self._set_up(headings)

    def _set_up(self, headings: Sequence[str]) -> None:
        sheet, locale = self.sheet, self.figures.locale
        names = [*(row.name(locale) for row in self.rows), *(row.panel or "" for row in self.rows)]
        sheet.set_column(0, self.names - 1, min(WIDEST_NAME, max(map(len, names)) + 2))
        sheet.set_column(self.names, len(headings) - 1, COLUMN + 2)
        sheet.freeze_panes(self.first, self.names)
        sheet.hide_gridlines(2)
        sheet.set_landscape()
        sheet.set_paper(9)
        sheet.fit_to_pages(1, 0)
        sheet.repeat_rows(HEAD)

    def _write_row(self, at: int, row: Row) -> None:
        look: dict[str, Any] = {"bold": True, "top": 1} if row.is_total else {}
        named = [row.panel or ""] * (self.names - 1) + [row.name(self.figures.locale) + self.analysis.mark(row.point)]
        for column, name in enumerate(named):
            self.sheet.write_string(at, column, " ".join(printable(name).split()), self._format(**look))
        for column, group, what in self._columns():
            self._write_figure(at, column, row, group, what, look)

    def _columns(self) -> Iterator[tuple[int, ComparisonColumns, str]]:
        """Every column of figures: its place, its comparison, and what it shows."""
        return ((place, group, what) for (group, what), place in self._places.items())

    @cached_property
    def _places(self) -> dict[tuple[ComparisonColumns, str], int]:
        found: dict[tuple[ComparisonColumns, str], int] = {}
        for group in self.groups:
            shown = ["current"] if group.shows_current and "current" in group.show else []
            if group.has_base:
                shown += [*(what for what in group.show if what != "current"), *group.drivers, "band"]
            for what in shown:
                found[group, what] = self.names + len(found)
        return found

    def _sides(self, group: ComparisonColumns) -> tuple[int, int] | None:
        """The columns of a comparison's two sides; the current one may stand with an earlier comparison."""
        now = [self._places.get((one, "current")) for one in self.groups[: self.groups.index(group) + 1]]
        known = [one for one in now if one is not None]
        then = self._places.get((group, "base"))
        return (known[-1], then) if known and then is not None else None

    def _write_figure(
        self, at: int, column: int, row: Row, group: ComparisonColumns, what: str, look: dict[str, Any]
    ) -> None:
        judged = row.judged[group.place]
        if judged is None:
            return
        point = judged.point
        is_ratio = point.kind is Kind.RATIO
        match what:
            case "band":
                self._write_band(at, column, judged, group, look)
            case "current" | "base":
                form = self._format(num_format="0.0%" if is_ratio else self._amounts, **look)
                amount = _side(point, what)
                if amount is None:
                    self._write_word(at, column, "n/a", look)
                else:
                    self._write_live(at, column, amount, self._sum(at, column, row, group, what), form)
            case "change":
                form = self._format(num_format=self._points if is_ratio else self._changes, **look)
                # A side that a step lacks is a word in its cell.
                moved = "=N({now})-N({then})" if point.is_whole_step else "={now}-{then}"
                self._write_live(at, column, point.change, self._of_sides(at, group, moved), form)
            case "percent" if point.change_ratio is None or state_words(point, group.one.names):
                self._write_word(at, column, ratio_text(point, self.figures, group.one.names), look)
            case "percent":
                form = self._format(num_format="+0.0%;-0.0%;0.0%", **look)
                formula = self._of_sides(at, group, '=IF({then}=0,"n/m",({now}-{then})/ABS({then}))')
                self._write_live(at, column, point.change_ratio, formula, form)
            case "contribution":
                self._write_live(at, column, point.contribution, None, self._format(num_format=self._points, **look))
            case _:
                form = self._format(num_format=self._changes, **look)
                self._write_live(at, column, driver_amount(judged, what), None, form)

    def _write_band(
        self, at: int, column: int, judged: Judged, group: ComparisonColumns, look: dict[str, Any]
    ) -> None:
        """The band by the rule's own conditions, live, where those are about the row alone; else as it was found."""
        if judged.band is None:
            return
        formula = self._band_formula(at, judged, group)
        if formula is None:
            form = self._format(**self._painted(judged.band.tone), indent=1, **look)
            self.sheet.write_string(at, column, judged.band.name, form)
        else:
            self.sheet.write_formula(at, column, formula, self._format(indent=1, **look), judged.band.name)

    def _band_formula(self, at: int, judged: Judged, group: ComparisonColumns) -> str | None:
        sides, rules = self._sides(group), group.one.rules
        named = rules.rule_for(judged.point)
        if sides is None or named is None or judged.band in (NO_BASE, NO_CURRENT) or not can_be_said(named.rule):
            return None
        if judged.point.current is None or judged.point.base is None:
            return None
        now, then = (xl_rowcol_to_cell(at, side) for side in sides)
        is_ratio = judged.point.kind is Kind.RATIO
        row = RowOfSheet(now=now, then=then, better=rules.better_for(judged.point), is_ratio=is_ratio)
        return band_formula(named.rule, row)

    def _paint_bands(self) -> None:
        """Colours the columns of bands by what stands in them, so that they change with the figures."""
        last = self.first + len(self.rows) - 1
        for (group, what), column in self._places.items():
            if what != "band":
                continue
            for band in group.one.rules.legend([]):
                told = {
                    "type": "cell",
                    "criteria": "==",
                    "value": '"' + band.name.replace('"', '""') + '"',
                    "format": self._format(**self._painted(band.tone)),
                }
                self.sheet.conditional_format(self.first, column, last, column, told)

    @property
    def _bands_note(self) -> tuple[str, ...]:
        """That bands do not follow the figures, where they cannot."""
        rules = [one.rule for group in self.groups if group.has_base for one in group.one.rules.rules]
        return () if all(map(can_be_said, rules)) else (FIXED,)

    def _painted(self, tone: Tone) -> dict[str, Any]:
        fill = self.fills[tone]
        return {"bg_color": fill, "font_color": LIGHT if _is_dark(fill) else DARK}

    def _write_word(self, at: int, column: int, word: str, look: dict[str, Any]) -> None:
        self.sheet.write_string(at, column, word, self._format(align="right", font_color=SOFT, **look))

    def _write_live(
        self, at: int, column: int, value: Decimal | Fraction | None, formula: str | None, form: Any
    ) -> None:
        """A figure, with the formula that works it out where there is one."""
        if value is None:
            return
        if formula is None:
            self.sheet.write_number(at, column, float(exactly(value)), form)
        else:
            self.sheet.write_formula(at, column, formula, form, float(exactly(value)))

    def _of_sides(self, at: int, group: ComparisonColumns, formula: str) -> str | None:
        """A formula of a comparison's two sides, where both have a column."""
        sides = self._sides(group)
        if sides is None:
            return None
        now, then = (xl_rowcol_to_cell(at, side) for side in sides)
        return formula.format(now=now, then=then)

    def _sum(self, at: int, column: int, row: Row, group: ComparisonColumns, what: str) -> str | None:
        """The formula of a total: of its lines in a statement, else of the rows above it; None where it is no sum."""
        if self.analysis.statement is not None:
            return self._line(at, column, row, self.analysis.statement)
        whole = row.judged[group.place]
        if not row.is_total or whole is None or self.names > 1:
            return None
        above = [one.judged[group.place] for one in self.rows[: at - self.first]]
        amounts = [side for one in above if one is not None and (side := _side(one.point, what)) is not None]
        if total(amounts) != _side(whole.point, what):
            return None
        name = xl_col_to_name(column)
        return f"=SUM({name}{self.first + 1}:{name}{at})"

    def _line(self, at: int, column: int, row: Row, statement: Statement) -> str | None:
        """A statement's total as the sum of its lines, a ratio as the quotient of its two."""
        line = statement.line(line_of(row.point))
        start = (
            max((place for place in range(at - self.first) if self.rows[place].panel != row.panel), default=-1) + 1
        )
        places = {
            line_of(one.point): place
            for place, one in enumerate(self.rows)
            if one.panel == row.panel and place >= start
        }
        parts = line.ratio_of or line.total_of
        if not parts or any(part not in places for part in parts) or self._is_along_time:
            return None
        rows = {part: self.first + places[part] for part in parts}
        if line.ratio_of:
            return "=" + "/".join(xl_rowcol_to_cell(row, column) for row in rows.values())
        added = [row for part, row in rows.items() if statement.line(part).sign_in(line) > 0]
        taken = [row for part, row in rows.items() if row not in added]
        return "=" + "-".join(_sum_of(column, some) if some else "" for some in (added, taken)).removesuffix("-")

    @property
    def _is_along_time(self) -> bool:
        return self.analysis.first.comparison.is_along_time

    @property
    def _amounts(self) -> str:
        """The format of amounts: shown in the unit of the table, each cell the whole amount."""
        unit = self.figures.unit
        digits = "0" + ("." + "0" * self.figures.decimals if self.figures.decimals else "")
        if unit is Unit.PERCENT:
            return f"{digits}%"
        return f"#,##{digits}{',' * (unit.power // 3)}"

    @property
    def _changes(self) -> str:
        return _signed(self._amounts, self.figures.signs)

    @property
    def _points(self) -> str:
        """Of changes in points, which are fractions: shown as per cent."""
        return _signed("0.0%", self.figures.signs)

    def _format(self, **look: Any) -> Any:
        key = tuple(sorted(look.items()))
        if key not in self.formats:
            self.formats[key] = self.book.add_format({**TYPE, **look})
        return self.formats[key]


def _sum_of(column: int, rows: Sequence[int]) -> str:
    """SUM, which counts a line without a figure, "n/a", as nothing, as the total does: + would make an error of it.

    >>> _sum_of(1, [4, 5, 7])
    'SUM(B5:B6,B8)'
    """
    name, cells = xl_col_to_name(column), []
    for _, found in groupby(enumerate(sorted(rows)), key=lambda one: one[1] - one[0]):
        run = [f"{name}{row + 1}" for _, row in found]
        cells.append(run[0] if len(run) == 1 else f"{run[0]}:{run[-1]}")
    return f"SUM({','.join(cells)})"


def _signed(form: str, signs: Signs) -> str:
    match signs:
        case Signs.PARENTHESES:
            return f"{form};({form})"
        case Signs.MINUS:
            return f"{form};-{form}"
    return f"+{form};-{form};{form}"


def _side(point: Point, what: str) -> Decimal | None:
    return point.current if what == "current" else point.base


def _is_dark(colour: str) -> bool:
    """Whether white is read better on it: by the mean of its parts as the eye weighs them."""
    red, green, blue = (int(colour[at : at + 2], 16) for at in (1, 3, 5))
    return 0.299 * red + 0.587 * green + 0.114 * blue < 140
