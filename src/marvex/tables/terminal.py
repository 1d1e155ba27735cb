"""The variance table in a terminal: aligned figures, a variance bar, band and sign in each row."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import groupby

from rich import box
from rich.console import Console
from rich.table import Column, Table
from rich.text import Text

from marvex.core.compare.across import across
from marvex.core.compare.point import Kind
from marvex.core.compare.result import Analysis
from marvex.core.rules.bands import Tone
from marvex.core.words.units import FigureFormat
from marvex.tables.bar import VarianceBar
from marvex.tables.rows import (
    ComparisonColumns,
    Row,
    amount_text,
    base_day_text,
    direction_mark,
    driver_amount,
    groups_of,
    shows_base_days,
    table_rows,
    variance_headings,
    variance_texts,
)
from marvex.tables.screen import screen

# The terminal's own colours, so that they are legible on its own ground, dark or light.
TONES = {
    Tone.BETTER: "cyan",
    Tone.WORSE: "magenta",
    Tone.WATCH: "yellow",
    Tone.NEUTRAL: "default",
    Tone.STANDING: "default",
    Tone.MUTED: "bright_black",
}
QUIET = "bright_black"
BAR_WIDTHS = (21, 15, 11, 0)  # the widest that fits is taken, none where none does
PLAIN_WIDTH = 400  # where the output is no terminal, nothing needs to be cut short


def print_table(analysis: Analysis, title: str, subtitle: str, foot: str) -> None:
    """Prints the table on standard output, coloured only where that is a terminal."""
    console = screen(PLAIN_WIDTH)
    console.print(Text(title, style="bold"))
    console.print(Text(subtitle, style=QUIET))
    console.print()
    for table in _fitting_tables(across(analysis), console):
        console.print(table)
        console.print()
    for line in analysis.notes:
        console.print(Text(line))
    for line in (*_legends(analysis), foot):
        console.print(Text(line, style=QUIET))


def _fitting_tables(analysis: Analysis, console: Console) -> list[Table]:
    """One table where it fits, its bars as wide as can be; else one below another, one a window or a base."""
    for bar_width in BAR_WIDTHS:
        table = _table(analysis, bar_width)
        if _needed(table, console) <= console.width:
            return [table]
    if len(analysis.comparisons) == 1:
        return [table]
    windows = [tuple(group) for _, group in groupby(analysis.comparisons, key=lambda one: one.comparison.current)]
    parts = windows if len(windows) > 1 else [(one,) for one in analysis.comparisons]
    return [table for part in parts for table in _fitting_tables(replace(analysis, comparisons=part), console)]


def _needed(table: Table, console: Console) -> int:
    return console.measure(table, options=console.options.update(width=PLAIN_WIDTH)).maximum


def _table(analysis: Analysis, bar_width: int) -> Table:
    table = Table(
        Column("", overflow="fold"),
        box=box.SIMPLE_HEAD,
        show_edge=False,
        pad_edge=False,
        header_style=QUIET,
    )
    groups = groups_of(analysis)
    for group in groups:
        one = group.one
        if group.shows_current and "current" in group.show:
            table.add_column(one.names.current, justify="right", no_wrap=True)
        if not group.has_base:
            continue
        if shows_base_days(one):
            table.add_column("Base day", style=QUIET, no_wrap=True)
        for _, heading in variance_headings(group):
            table.add_column(heading, justify="right", no_wrap=True)
        for name in group.drivers:
            table.add_column(name, justify="right", no_wrap=True)
        if bar_width:
            table.add_column("", no_wrap=True, min_width=bar_width)
        table.add_column("Band", no_wrap=True)
    panel = None
    for row in table_rows(analysis):
        if row.is_total and row.panel is None:
            table.add_section()
        elif row.panel != panel:
            if panel is not None:
                table.add_section()
            table.add_row(Text(row.panel or "", style="bold"))
        panel = row.panel
        indent = "  " if row.panel else ""
        if analysis.statement is not None and not row.panel:
            line = analysis.statement.line(row.label)
            indent = "  " * line.indent
            if line.section:
                table.add_section()
                table.add_row(Text(line.section, style=QUIET))
        name = row.name(analysis.figures.locale) + analysis.mark(row.point)
        label = Text(f"{indent}{name}", style="bold" if row.is_total else "")
        table.add_row(label, *_cells(row, groups, analysis.figures, bar_width))
    return table


def _cells(row: Row, groups: Sequence[ComparisonColumns], figures: FigureFormat, bar_width: int) -> list[Text]:
    cells: list[Text] = []
    # Only amounts are set bold: many terminals show a bold colour as another one.
    weight = "bold" if row.is_total else ""
    for group in groups:
        judged = row.judged[group.place]
        if group.shows_current and "current" in group.show:
            cells.append(Text(amount_text(judged, True, figures), style=weight))
        if not group.has_base:
            continue
        if shows_base_days(group.one):
            cells.append(Text(base_day_text(judged, figures.locale)))
        is_judged = judged is not None and judged.band is not None
        tone = TONES[judged.band.tone] if judged is not None and judged.band is not None else ""
        for what, text in variance_texts(judged, group, figures):
            is_shown = is_judged or what == "base"
            cells.append(Text(text if is_shown else "", style=weight if what == "base" else tone))
        if judged is None or judged.band is None:
            cells += [Text("")] * ((2 if bar_width else 1) + len(group.drivers))
            continue
        for name in group.drivers:
            amount = driver_amount(judged, name)
            cells.append(Text("" if amount is None else figures.change(amount)))
        if bar_width:
            has_bar = not row.is_total and row.point.kind is not Kind.RATIO
            bar = (
                VarianceBar(change=judged.point.change, lowest=group.lowest, highest=group.highest, width=bar_width)
                if has_bar
                else ""
            )
            cells.append(Text(str(bar), style=tone))
        cells.append(Text(f"{direction_mark(judged.point)} {judged.band.name}", style=tone))
    return cells


def _legends(analysis: Analysis) -> list[str]:
    """A line for each rule that is used, with its bands and their conditions."""
    lines = []
    for one in analysis.comparisons:
        if one.comparison.base is None:
            continue
        bands = one.rules.legend([judged.band for judged in one.shown])
        lines.append("   ".join(f"{band.name}: {band.text}" if band.text else band.name for band in bands))
    return list(dict.fromkeys(lines))
