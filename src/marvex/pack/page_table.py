"""The variance table as a page shows it: cells with what they sort by, and a bar for each change."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from marvex.core.compare.across import across
from marvex.core.compare.result import Analysis
from marvex.core.exact import ZERO, exactly
from marvex.core.rules.bands import Tone
from marvex.core.rules.judging import Judged
from marvex.core.words.printable import printable
from marvex.tables.files import table_headings
from marvex.tables.rows import (
    ComparisonColumns,
    amount_text,
    direction_mark,
    driver_amount,
    groups_of,
    has_panels,
    table_rows,
    variance_texts,
)

Record = dict[str, Any]  # of JSON: what a page is made of is stored


def page_table(analysis: Analysis) -> Record:
    """Headings and rows; a cell is a text, what it sorts by, and of a change its bar, in parts of its column."""
    analysis = across(analysis)
    panels, groups = has_panels(analysis), groups_of(analysis)
    rows = []
    for row in table_rows(analysis):
        cells = [_name(printable(row.panel or ""))] if panels else []
        cells.append(_name(printable(row.name(analysis.figures.locale) + analysis.mark(row.point))))
        for group in groups:
            cells += _cells(row.judged[group.place], group, analysis)
        rows.append({"cells": cells, "total": row.is_total or (row.point.is_cost is not None and not row.point.parts
                                                               and row.point.kind.value == "total")})  # fmt: skip
    return {"headings": [*([""] * (1 + panels)), *table_headings(groups)], "names": 1 + panels, "rows": rows}


def _name(text: str) -> Record:
    return {"text": text, "sort": text.casefold(), "name": True}


def _cells(judged: Judged | None, group: ComparisonColumns, analysis: Analysis) -> list[Record]:
    figures, cells = analysis.figures, list[Record]()
    point = judged.point if judged else None
    if group.shows_current and "current" in group.show:
        cells.append(_figure(amount_text(judged, True, figures), point.current if point else None))
    if not group.has_base:
        return cells
    values: Mapping[str, Any] = (
        {}
        if point is None
        else {
            "base": point.base,
            "change": point.change,
            "percent": point.change_ratio,
            "contribution": point.contribution,
        }
    )
    for what, text in variance_texts(judged, group, figures):
        cell = _figure(text, values.get(what))
        if what == "change" and point is not None and point.kind.value != "total":
            cell["bar"] = _bar(point.change, group, judged)
        cells.append(cell)
    for name in group.drivers:
        amount = driver_amount(judged, name)
        cells.append(_figure("" if amount is None else figures.change(amount), amount))
    band = judged.band if judged else None
    mark = f"{direction_mark(judged.point)} " if judged and band else ""
    cells.append(
        {
            "text": f"{mark}{printable(band.name)}" if band else "",
            "sort": band.name.casefold() if band else "",
            "tone": band.tone.value if band else "",
        }
    )
    return cells


def _figure(text: str, value: Any) -> Record:
    return {"text": text, "sort": None if value is None else float(exactly(value))}


def _bar(change: Decimal | None, group: ComparisonColumns, judged: Judged | None) -> Record | None:
    """Where a change's bar begins and how long it is, in per cent of its column."""
    span = group.highest - group.lowest
    if change is None or not span or judged is None:
        return None
    tone = judged.band.tone if judged.band else Tone.NEUTRAL
    start = (min(change, ZERO) - group.lowest) / span
    return {"start": _percent(start), "length": _percent(abs(change) / span), "tone": tone.value}


def _percent(part: Decimal) -> float:
    return round(float(max(ZERO, min(Decimal(1), part))) * 100, 2)
