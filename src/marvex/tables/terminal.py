"""The variance table in a terminal: aligned figures, a variance bar, band and sign in each row."""

from __future__ import annotations

from dataclasses import replace
from decimal import Decimal

from rich import box
from rich.console import Console
from rich.table import Column, Table
from rich.text import Text

from marvex.core.judging import Judged
from marvex.core.result import Analysis
from marvex.core.rules import Tone
from marvex.tables.bar import VarianceBar
from marvex.tables.rows import (
    Row,
    amount_text,
    change_text,
    direction_mark,
    ratio_text,
    shows_current,
    table_rows,
)

# The terminal's own colours, so that they are legible on its own ground, dark or light.
TONES = {
    Tone.BETTER: "cyan",
    Tone.WORSE: "magenta",
    Tone.WATCH: "yellow",
    Tone.PLAIN: "default",
    Tone.STANDING: "default",
    Tone.FAINT: "bright_black",
}
QUIET = "bright_black"
BAR_WIDTH = 21
PLAIN_WIDTH = 400  # where the output is no terminal, nothing needs to be cut short


def print_table(analysis: Analysis, title: str, subtitle: str, foot: str) -> None:
    """Prints the table on standard output, coloured only where that is a terminal."""
    console = Console(highlight=False)
    if not console.is_terminal:
        console = Console(highlight=False, width=PLAIN_WIDTH)
    console.print(Text(title, style="bold"))
    console.print(Text(subtitle, style=QUIET))
    console.print()
    for table in _fitting_tables(analysis, console):
        console.print(table)
    console.print(Text(_legend(analysis), style=QUIET))
    console.print(Text(foot, style=QUIET))


def _fitting_tables(analysis: Analysis, console: Console) -> list[Table]:
    """One table where it fits, first with bars, then without; else one below another, one a comparison."""
    for with_bars in (True, False):
        table = _table(analysis, with_bars)
        if console.measure(table).minimum <= console.width and _needed(table, console) <= console.width:
            return [table]
    if len(analysis.comparisons) == 1:
        return [table]
    alone = [replace(analysis, comparisons=(one,)) for one in analysis.comparisons]
    return [table for one in alone for table in _fitting_tables(one, console)]


def _needed(table: Table, console: Console) -> int:
    return console.measure(table, options=console.options.update(width=PLAIN_WIDTH)).maximum


def _table(analysis: Analysis, with_bars: bool) -> Table:
    table = Table(
        Column("", overflow="fold"),
        box=box.SIMPLE_HEAD,
        show_edge=False,
        pad_edge=False,
        header_style=QUIET,
    )
    for place, one in enumerate(analysis.comparisons):
        if shows_current(analysis.comparisons, place):
            table.add_column(one.names.current, justify="right", no_wrap=True)
        if one.comparison.base is None:
            continue
        table.add_column(one.names.base, justify="right", no_wrap=True)
        table.add_column("Change", justify="right", no_wrap=True)
        table.add_column("Ratio", justify="right", no_wrap=True)
        if with_bars:
            table.add_column("", no_wrap=True, min_width=BAR_WIDTH)
        table.add_column("Band", no_wrap=True)
    for row in table_rows(analysis):
        if row.is_total:
            table.add_section()
        table.add_row(
            Text(row.label), *_cells(row, analysis, with_bars), style="bold" if row.is_total else None
        )
    return table


def _cells(row: Row, analysis: Analysis, with_bars: bool) -> list[Text]:
    cells: list[Text] = []
    figures = analysis.figures
    for place, one in enumerate(analysis.comparisons):
        judged = row.judged[place]
        if shows_current(analysis.comparisons, place):
            cells.append(Text(amount_text(judged, True, figures)))
        if one.comparison.base is None:
            continue
        cells.append(Text(amount_text(judged, False, figures)))
        if judged is None or judged.band is None:
            cells += [Text("")] * (4 if with_bars else 3)
            continue
        tone = TONES[judged.band.tone]
        cells.append(Text(change_text(judged.point, figures), style=tone))
        cells.append(Text(ratio_text(judged.point, figures), style=tone))
        if with_bars:
            cells.append(Text("" if row.is_total else str(_bar(judged, one.points)), style=tone))
        cells.append(Text(f"{direction_mark(judged.point)} {judged.band.name}", style=tone))
    return cells


def _bar(judged: Judged, fellows: tuple[Judged, ...]) -> VarianceBar:
    changes = [one.point.change for one in fellows if one.point.change is not None]
    zero = Decimal(0)
    return VarianceBar(judged.point.change, min(zero, *changes, zero), max(zero, *changes, zero), BAR_WIDTH)


def _legend(analysis: Analysis) -> str:
    first = analysis.first
    if first.comparison.base is None:
        return ""
    met = [one.band for one in first.points]
    return "   ".join(
        f"{band.name}: {band.text}" if band.text else band.name for band in first.rule.legend(met)
    )
