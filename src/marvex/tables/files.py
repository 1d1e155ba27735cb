"""The variance table as a file: CSV with exact figures, Markdown with displayed ones."""

from __future__ import annotations

import csv
import io
from decimal import Decimal
from fractions import Fraction

from marvex.core.comparison import Kind, Point
from marvex.core.judging import Judged
from marvex.core.result import Analysis
from marvex.core.units import exact_ratio
from marvex.core.wording import in_sentence
from marvex.tables.rows import (
    Row,
    amount_text,
    change_text,
    direction_mark,
    driver_amount,
    driver_names,
    has_panels,
    ratio_text,
    shows_current,
    table_rows,
)


def table_csv(analysis: Analysis) -> str:
    """The table with the source's own digits; absent figures are empty."""
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\n")
    panels = has_panels(analysis)
    remark = ["remark"] if analysis.remarks else []
    writer.writerow([*(["panel"] if panels else []), "label", *_headings(analysis), *remark])
    for row in table_rows(analysis):
        said = [" ".join(one.text for _, one in analysis.remarks_on(row.point))] if remark else []
        writer.writerow([*([row.panel] if panels else []), row.label, *_exact_cells(row, analysis), *said])
    return text.getvalue()


def table_markdown(analysis: Analysis, title: str, subtitle: str, foot: str) -> str:
    """The table as it would be read, with title, comparison and foot."""
    panels = has_panels(analysis)
    headings = [*([""] if panels else []), "", *_headings(analysis)]
    lines = [f"**{title}**", "", subtitle, "", _line(headings)]
    names = 2 if panels else 1
    lines.append("|" + " --- |" * names + " ---: |" * (len(headings) - names))
    for row in table_rows(analysis):
        name = row.name(analysis.figures.locale) + analysis.mark(row.point)
        named = [row.panel or "", name] if panels else [name]
        cells = [*(name.replace("|", "\\|") for name in named), *_displayed_cells(row, analysis)]
        lines.append(_line([f"**{cell}**" if row.is_total and cell else cell for cell in cells]))
    notes = [line for note in analysis.notes for line in (note, "")]
    return "\n".join([*lines, "", *notes, foot, ""])


def _line(cells: list[str]) -> str:
    return "| " + " | ".join(cells) + " |"


def _headings(analysis: Analysis) -> list[str]:
    headings = []
    several = len(analysis.comparisons) > 1
    for place, one in enumerate(analysis.comparisons):
        if shows_current(analysis.comparisons, place):
            headings.append(one.names.current)
        if one.comparison.base is None:
            continue
        on = f" on {in_sentence(one.names.base)}" if several else ""
        headings += [one.names.base, f"Change{on}", f"Change ratio{on}"]
        headings += [*(f"{name}{on}" for name in driver_names(one)), f"Band{on}"]
    return headings


def _exact_cells(row: Row, analysis: Analysis) -> list[str]:
    cells: list[str] = []
    for place, one in enumerate(analysis.comparisons):
        judged = row.judged[place]
        if shows_current(analysis.comparisons, place):
            cells.append(_exact(judged.point, judged.point.current) if judged else "")
        if one.comparison.base is None:
            continue
        drivers = driver_names(one)
        amounts = [driver_amount(judged, name) for name in drivers]
        texts = ["" if amount is None else f"{amount:f}" for amount in amounts]
        *sides, band = _exact_variance(judged) if judged else [""] * 4
        cells += [*sides, *texts, band]
    return cells


def _exact_variance(judged: Judged) -> list[str]:
    point = judged.point
    ratio = point.change_ratio
    return [
        _exact(point, point.base),
        _exact(point, point.change),
        "" if ratio is None else f"{exact_ratio(ratio):f}",
        judged.band.name if judged.band else "",
    ]


def _exact(point: Point, amount: Decimal | None) -> str:
    """The amount with the source's own digits; a ratio line's as a fraction to six decimals."""
    if amount is None:
        return ""
    return f"{exact_ratio(Fraction(amount)) if point.kind is Kind.RATIO else amount:f}"


def _displayed_cells(row: Row, analysis: Analysis) -> list[str]:
    figures = analysis.figures
    cells: list[str] = []
    for place, one in enumerate(analysis.comparisons):
        judged = row.judged[place]
        if shows_current(analysis.comparisons, place):
            cells.append(amount_text(judged, True, figures))
        if one.comparison.base is None:
            continue
        cells.append(amount_text(judged, False, figures))
        if judged is None:
            cells += [""] * (3 + len(driver_names(one)))
            continue
        band = f"{direction_mark(judged.point)} {judged.band.name}" if judged.band else ""
        amounts = [driver_amount(judged, name) for name in driver_names(one)]
        drivers = ["" if amount is None else figures.change(amount) for amount in amounts]
        cells += [change_text(judged.point, figures), ratio_text(judged.point, figures), *drivers, band]
    return cells
