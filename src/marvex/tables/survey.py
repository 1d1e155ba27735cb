"""A survey in a terminal, and as JSON."""

from __future__ import annotations

from dataclasses import asdict
from datetime import date

from rich import box
from rich.console import Console
from rich.padding import Padding
from rich.table import Table
from rich.text import Text

from marvex.core.compare.cautions import runs_of
from marvex.core.survey import ColumnFacts, ScenarioFacts, Survey
from marvex.core.time.calendar import Grain
from marvex.core.words.units import FigureFormat, Unit
from marvex.tables.exact_json import exact_json
from marvex.tables.screen import screen

QUIET, STRONG = "bright_black", "bold"
EXAMPLES_WIDTH = 26
WIDTH = 100
SHOWN_COLUMNS = 24


def print_survey(survey: Survey, locale: str) -> None:
    """Prints the survey on standard output, at most 100 columns wide."""
    console = screen(WIDTH)
    console.width = min(WIDTH, console.width)
    figures = FigureFormat(unit=Unit.ONE, decimals=0, locale=locale)
    console.print(
        Text(f"{survey.name}: {survey.rows:,} {survey.counted}, {len(survey.columns)} columns", style=STRONG)
    )
    _section(console, "Columns", _columns(survey.columns))
    if survey.scenarios:
        _section(console, "What it holds", _scenarios(survey.scenarios, figures))
    for one in survey.categories:
        table = _table(("", "Rows", "Sum"), right=(1, 2))
        for size in one.largest:
            amount = "" if size.amount is None else figures.amount(size.amount)
            table.add_row(Text(size.name), f"{size.rows:,}", amount)
        more = f", the largest {len(one.largest)}" if one.distinct > len(one.largest) else ""
        _section(console, f"{one.name}: {one.distinct}{more}", table)
    _notes(console, survey, figures)
    if survey.next:
        console.print()
        console.print(Text("Worth running next", style=STRONG))
        for command in survey.next:
            console.print(Text(f"  {command}"), soft_wrap=True)


def _section(console: Console, title: str, table: Table) -> None:
    console.print()
    console.print(Text(title, style=STRONG))
    console.print(table)


def _table(headings: tuple[str, ...], right: tuple[int, ...] = ()) -> Table:
    table = Table(box=box.SIMPLE_HEAD, show_edge=False, pad_edge=False, header_style=QUIET)
    for place, heading in enumerate(headings):
        table.add_column(heading, justify="right" if place in right else "left", overflow="ellipsis")
    return table


def _columns(columns: tuple[ColumnFacts, ...]) -> Table:
    table = _table(("Column", "Taken for", "Because", "Missing", "Distinct", "Such as"), right=(3, 4))
    for place in range(1, 6):
        table.columns[place].no_wrap = True
    table.columns[5].max_width = EXAMPLES_WIDTH
    for group in _alike(columns)[:SHOWN_COLUMNS]:
        one, last = group[0], group[-1]
        name = one.name if len(group) == 1 else f"{one.name} … {last.name}"
        count = sum(column.absent for column in group)
        absent = Text(f"{count:,}", style=STRONG) if count else Text("")
        distinct = f"{one.distinct:,}" if len(group) == 1 else ""
        examples = Text(", ".join(one.examples), style=QUIET)
        table.add_row(Text(name), one.role, Text(one.why, style=QUIET), absent, distinct, examples)
    if len(columns) > SHOWN_COLUMNS:
        table.add_row(Text(f"and {len(columns) - SHOWN_COLUMNS} more", style=QUIET))
    return table


def _alike(columns: tuple[ColumnFacts, ...]) -> list[list[ColumnFacts]]:
    """The columns, those side by side whose headings are amounts of the same kind taken together."""
    groups: list[list[ColumnFacts]] = []
    for one in columns:
        before = groups[-1][-1] if groups else None
        if before and one.role == before.role == "amount" and one.why == before.why:
            groups[-1].append(one)
        else:
            groups.append([one])
    return groups


def _scenarios(scenarios: tuple[ScenarioFacts, ...], figures: FigureFormat) -> Table:
    table = _table(("Scenario", "Rows", "Sum", "From", "To", "Grain", "Missing periods"), right=(1, 2))
    for one in scenarios:
        dates = one.dates
        table.add_row(
            dates.name or "(all)",
            f"{one.rows:,}",
            figures.amount(one.amount),
            str(dates.first or ""),
            str(dates.last or ""),
            dates.grain.value if dates.grain else "",
            Text(_missing(one), style=STRONG),
        )
    return table


def _missing(one: ScenarioFacts) -> str:
    grain = one.dates.grain
    if not one.missing or grain is None:
        return ""
    runs = runs_of(one.missing, grain)
    shown = ", ".join(_run(first, last, grain) for first, last in runs[:3])
    return shown + (f" and {len(runs) - 3} more" if len(runs) > 3 else "")


def _run(first: date, last: date, grain: Grain) -> str:
    if grain is Grain.DAY and first == last:
        return str(first)
    length = 7 if grain.months and first.day == 1 else 10
    start, end = str(first)[:length], str(last)[:length]
    return start if start == end else f"{start} to {end}"


def _notes(console: Console, survey: Survey, figures: FigureFormat) -> None:
    """What an analyst would want to know before she relies on it."""
    notes = list(survey.left_out)
    if survey.duplicates:
        notes.append(
            f"{_rows(survey.duplicates.rows)} the same as an earlier one, the first at {survey.duplicates.place}"
        )
    if survey.doubled:
        like = _rows(survey.doubled.rows)
        notes.append(f"{like} like an earlier one in all but the amount, the first at {survey.doubled.place}")
    for one in survey.outliers:
        about = " ".join(part for part in (one.category, one.day) if part)
        notes.append(
            f"{figures.amount(one.amount)} is far from the usual {figures.amount(one.usual)} ({one.place}, {about})"
        )
    notes += survey.cautions
    if not notes:
        return
    console.print()
    console.print(Text("Worth a look", style=STRONG))
    for note in notes:
        console.print(Padding(Text(note), (0, 0, 0, 2)))


def _rows(count: int) -> str:
    return "1 row is" if count == 1 else f"{count:,} rows are"


def survey_json(survey: Survey) -> str:
    """All of it as JSON."""
    return exact_json(asdict(survey))
