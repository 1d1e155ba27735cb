"""The variance table as a file: CSV with exact figures, Markdown with displayed ones."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence
from decimal import Decimal
from fractions import Fraction

from marvex.core.compare.across import across
from marvex.core.compare.point import Kind, Point
from marvex.core.compare.result import Analysis
from marvex.core.exact import EXACT, Rounded
from marvex.core.rules.judging import Judged
from marvex.core.words.side_names import in_sentence
from marvex.core.words.units import FigureFormat, exact_ratio
from marvex.tables.cells import in_markdown, never_a_formula
from marvex.tables.rows import (
    ComparisonColumns,
    Row,
    amount_text,
    direction_mark,
    driver_amount,
    groups_of,
    has_panels,
    table_rows,
    variance_headings,
    variance_texts,
)

BYTE_ORDER_MARK = "\ufeff"


def table_csv(analysis: Analysis) -> str:
    """The table for a spreadsheet, with the source's own digits: marked as UTF-8, absent figures empty."""
    text, analysis = io.StringIO(BYTE_ORDER_MARK), across(analysis)
    text.seek(0, io.SEEK_END)
    writer = csv.writer(text, lineterminator="\n")
    panels, groups = has_panels(analysis), groups_of(analysis)
    remark = ["remark"] if analysis.remarks else []
    headings = [*(["panel"] if panels else []), "label", *table_headings(groups), *remark]
    writer.writerow(map(never_a_formula, headings))
    for row in table_rows(analysis):
        said = [" ".join(one.text for _, one in analysis.remarks_on(row.point))] if remark else []
        named = [*([row.panel or ""] if panels else []), row.label]
        writer.writerow([*map(never_a_formula, named), *_exact_cells(row, groups), *map(never_a_formula, said)])
    return text.getvalue()


def table_markdown(analysis: Analysis, title: str, subtitle: str, foot: str) -> str:
    """The table as it would be read, with title, comparison and foot."""
    remarks, analysis = analysis.notes, across(analysis)
    panels, groups = has_panels(analysis), groups_of(analysis)
    headings = [*([""] if panels else []), "", *table_headings(groups)]
    lines = [f"**{in_markdown(title)}**", "", in_markdown(subtitle), "", _line(map(in_markdown, headings))]
    names = 2 if panels else 1
    lines.append("|" + " --- |" * names + " ---: |" * (len(headings) - names))
    for row in table_rows(analysis):
        name = row.name(analysis.figures.locale) + analysis.mark(row.point)
        named = [row.panel or "", name] if panels else [name]
        cells = [in_markdown(cell) for cell in (*named, *_displayed_cells(row, groups, analysis.figures))]
        lines.append(_line([f"**{cell}**" if row.is_total and cell else cell for cell in cells]))
    notes = [line for note in remarks for line in (in_markdown(note), "")]
    return "\n".join([*lines, "", *notes, in_markdown(foot), ""])


def _line(cells: Iterable[str]) -> str:
    return "| " + " | ".join(cells) + " |"


def table_headings(groups: Sequence[ComparisonColumns]) -> list[str]:
    headings = []
    for group in groups:
        names = group.one.names
        if group.shows_current and "current" in group.show:
            headings.append(names.current)
        if not group.has_base:
            continue
        on = f" on {in_sentence(names.base)}" if len(groups) > 1 else ""
        headings += [name if what == "base" else f"{name}{on}" for what, name in variance_headings(group)]
        headings += [*(f"{name}{on}" for name in group.drivers), f"Band{on}"]
    return headings


def _exact_cells(row: Row, groups: Sequence[ComparisonColumns]) -> list[str]:
    cells: list[str] = []
    for group in groups:
        judged = row.judged[group.place]
        if group.shows_current and "current" in group.show:
            cells.append(_exact(judged.point, judged.point.current) if judged else "")
        if not group.has_base:
            continue
        amounts = [driver_amount(judged, name) for name in group.drivers]
        texts = ["" if amount is None else f"{amount:f}" for amount in amounts]
        *sides, band = _exact_variance(judged, group) if judged else [""] * len(group.show)
        cells += [*sides, *texts, band]
    return cells


def _exact_variance(judged: Judged, group: ComparisonColumns) -> list[str]:
    point = judged.point
    exact = {
        "base": _exact(point, point.base),
        "change": _exact(point, point.change),
        "percent": _exact_fraction(point.change_ratio),
        "contribution": _exact_fraction(point.contribution),
    }
    band = never_a_formula(judged.band.name) if judged.band else ""
    return [*(exact[what] for what, _ in variance_headings(group)), band]


def _exact_fraction(ratio: Fraction | None) -> str:
    return "" if ratio is None else f"{exact_ratio(ratio):f}"


def _exact(point: Point, amount: Decimal | None) -> str:
    """The amount with the source's own digits; a ratio line's as a fraction to six decimals.

    A mean or a rate has as many of its six more decimals as say something.
    """
    if amount is None:
        return ""
    if isinstance(amount, Rounded):
        return f"{EXACT.plus(amount).normalize():f}"
    return f"{exact_ratio(Fraction(amount)) if point.kind is Kind.RATIO else amount:f}"


def _displayed_cells(row: Row, groups: Sequence[ComparisonColumns], figures: FigureFormat) -> list[str]:
    cells: list[str] = []
    for group in groups:
        judged = row.judged[group.place]
        if group.shows_current and "current" in group.show:
            cells.append(amount_text(judged, True, figures))
        if not group.has_base:
            continue
        texts = [text for _, text in variance_texts(judged, group, figures)]
        if judged is None:
            cells += [*texts, *([""] * (1 + len(group.drivers)))]
            continue
        band = f"{direction_mark(judged.point)} {judged.band.name}" if judged.band else ""
        amounts = [driver_amount(judged, name) for name in group.drivers]
        drivers = ["" if amount is None else figures.change(amount) for amount in amounts]
        cells += [*texts, *drivers, band]
    return cells
