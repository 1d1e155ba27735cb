"""A trace in a terminal, and as JSON."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal
from fractions import Fraction
from functools import partial
from typing import Any

from rich import box
from rich.table import Table
from rich.text import Text

from marvex.core.compare.point import Kind
from marvex.core.compare.result import Analysis
from marvex.core.compare.side import Side
from marvex.core.compare.trace import Trace, TracedSide
from marvex.core.exact import EXACT, rounded_ratio
from marvex.core.rules.conditions import BEYOND, ValueKind
from marvex.core.rules.turning import Asked, TriedBand, tried_bands
from marvex.core.words.extreme import FAR_OUT, odd_side
from marvex.core.words.side_names import scenario_words
from marvex.core.words.units import ABSENT, MINUS, FigureFormat, Unit, exact_ratio
from marvex.core.words.wording import point_sentence, state_words
from marvex.tables.exact_json import exact_json
from marvex.tables.screen import screen

QUIET, STRONG = "bright_black", "bold"
PLAIN_WIDTH = 400
SHOWN_CELLS = 6


def print_trace(trace: Trace, analysis: Analysis) -> None:
    """Prints the trace on standard output."""
    console = screen(PLAIN_WIDTH)
    band = trace.band.name if trace.band else None
    sentence = point_sentence(trace.point, band, analysis.first.names, analysis.figures)
    console.print(Text(sentence, style=STRONG))
    told = (analysis.subject, analysis.first.names.both, analysis.figures.unit_words)
    console.print(Text(", ".join(part for part in told if part), style=QUIET))
    console.print()
    console.print(_working(trace, analysis))
    extreme = why_extreme(trace, analysis)
    if extreme:
        console.print()
        console.print(Text(extreme))
    if trace.lines:
        console.print()
        console.print(Text("The lines that it is made of", style=STRONG))
        console.print(_lines(trace, analysis))
    for name, side in (("current", trace.current), ("base", trace.base)):
        if side is not None and side.largest:
            console.print()
            shown = f"the largest {len(side.largest)} of " if side.rows > len(side.largest) else ""
            console.print(Text(f"Rows of the {name} side, {shown}{side.rows:,}", style=STRONG))
            console.print(_rows(side, analysis.figures.locale))


def why_extreme(trace: Trace, analysis: Analysis) -> str:
    """Where the change is unusual for its own history, which side is the odd one; else empty."""
    point = trace.point
    if point.unusual is None or abs(point.unusual) < FAR_OUT:
        return ""
    return odd_side(point, analysis.first.comparison.points, analysis.figures)


def _working(trace: Trace, analysis: Analysis) -> Table:
    table = Table(box=None, show_header=False, pad_edge=False)
    table.add_column(style=QUIET)
    table.add_column(justify="right")
    table.add_column()
    for name, value, how in working(trace, analysis):
        table.add_row(name, value, Text(how))
    return table


def _lines(trace: Trace, analysis: Analysis) -> Table:
    amounts = [side for one in trace.lines for side in (one.current, one.base) if side is not None]
    exact = _plain(amounts, analysis.figures.locale)
    table = Table(box=box.SIMPLE_HEAD, show_edge=False, pad_edge=False, header_style=QUIET)
    table.add_column("")
    table.add_column("line")
    for name in ("current", *(["base"] if trace.base else [])):
        table.add_column(name, justify="right")
    for one in trace.lines:
        sides = (one.current, one.base) if trace.base else (one.current,)
        table.add_row(one.how, one.label, *(ABSENT if side is None else exact(side) for side in sides))
    return table


def working(trace: Trace, analysis: Analysis) -> list[tuple[str, str, str]]:
    """Each quantity with its value and how it comes about, exact figures throughout."""
    exact = _exact(trace, analysis.figures.locale)
    lines = [("current", exact(trace.current.amount), _origin(trace.current))]
    point = trace.point
    if trace.base is not None:
        lines.append(("base", exact(trace.base.amount), _origin(trace.base)))
        if point.change is None:
            lines.append(("change", ABSENT, f"one side has no rows: {state_words(point, analysis.first.names)}"))
        else:
            both = f"{exact(point.current)} {MINUS} {_bracketed(exact(point.base))}"
            lines.append(("change", exact(point.change), f"= {both}"))
            ratio = point.change_ratio
            lines.append(
                ("change %", "n/m", "the base is zero, so that it is judged as beyond every percentage")
                if ratio is None
                else (
                    "change %",
                    analysis.figures.ratio(point),
                    f"= {exact(point.change)} ÷ |{exact(point.base)}|",
                )
            )
    if trace.band is not None:
        because = f"because {trace.band.text}" if trace.band.text else "before any rule is asked"
        lines.append(("band", trace.band.name, f"[{trace.band.tone.value}] {because}"))
    lines += [("tried", one.band.name, _tried(one, analysis)) for one in tried_bands(analysis.first, point)]
    if analysis.filtered:
        lines.append(("rows kept", "", analysis.filtered))
    return lines


def _tried(one: TriedBand, analysis: Analysis) -> str:
    """What a band asked of the point, what it found, and by how much it missed."""
    asked = "; ".join(_asked(part, analysis) for part in one.asked)
    return f"[{one.band.tone.value}] asked {one.band.text}" + (f": {asked}" if asked else "")


def _asked(one: Asked, analysis: Analysis) -> str:
    locale = analysis.figures.locale
    if one.has is None:
        return f"no {one.comparison.left.value}"
    has = f"{one.comparison.left.value} is {_measured(one.has, one.unit, locale)}"
    return (
        has if one.missed_by is None else f"{has}, misses by {_measured(one.missed_by, one.unit, locale, ' points')}"
    )


def _measured(number: Fraction, unit: ValueKind, locale: str, behind: str = "%") -> str:
    """A quantity as exactly as it reads well: percentages to two decimals."""
    if unit is ValueKind.PERCENT and abs(number) >= BEYOND:
        return "beyond every percentage"
    if unit is ValueKind.PERCENT:
        return FigureFormat(decimals=2, locale=locale).amount(rounded_ratio(number * 100, 2)) + behind
    decimals = 0 if number.denominator == 1 else 2
    return FigureFormat(decimals=decimals, locale=locale).amount(rounded_ratio(number, decimals))


def _exact(trace: Trace, locale: str) -> Any:
    """Writes a figure with all its digits."""
    if trace.point.kind is Kind.RATIO:
        return partial(_ratio, locale=locale)
    amounts = [one for one in (trace.point.current, trace.point.base) if one is not None]
    return _plain(amounts, locale)


def _ratio(amount: Decimal | None, locale: str) -> str:
    if amount is None:
        return ABSENT
    return FigureFormat(unit=Unit.ONE, decimals=4, locale=locale).amount(EXACT.scaleb(amount, 2)) + "%"


def _plain(amounts: Sequence[Decimal], locale: str) -> Any:
    """Writes figures with as many decimals as any of them has."""
    decimals = max((-int(one.as_tuple().exponent) for one in amounts), default=0)
    return FigureFormat(unit=Unit.ONE, decimals=max(decimals, 0), locale=locale).amount


def _bracketed(figure: str) -> str:
    return f"({figure})" if figure.startswith(MINUS) else figure


def _origin(one: TracedSide) -> str:
    if not one.rows:
        return _side(one.side)
    rows = "1 row" if one.rows == 1 else f"{one.rows:,} rows"
    return f"{rows} of {_side(one.side)}"


def _side(side: Side) -> str:
    scenario = scenario_words(side) or "the data"
    days = " and ".join(f"{one.first} to {one.end}" for one in side.runs)
    return f"{scenario}, {days}" if days else scenario


def _rows(side: TracedSide, locale: str) -> Table:
    table = Table(box=box.SIMPLE_HEAD, show_edge=False, pad_edge=False, header_style=QUIET)
    table.add_column("")
    for heading in side.largest[0].headings[:SHOWN_CELLS]:
        table.add_column(heading, overflow="ellipsis")
    table.add_column("Counted as", justify="right")
    decimals = max((-int(row.amount.as_tuple().exponent) for row in side.largest), default=0)
    figures = FigureFormat(unit=Unit.ONE, decimals=max(decimals, 0), locale=locale)
    for row in side.largest:
        table.add_row(row.place, *(Text(cell) for cell in row.cells[:SHOWN_CELLS]), figures.amount(row.amount))
    return table


def trace_json(trace: Trace, analysis: Analysis) -> str:
    """All of it as JSON, every figure with its own digits."""
    point, ratio = trace.point, trace.point.change_ratio
    record = {
        "point": point.label,
        "panel": point.panel,
        "state": point.state.value,
        "current": _side_record(trace.current),
        "base": None if trace.base is None else _side_record(trace.base),
        "change": point.change if trace.base else None,
        "change_ratio": None if ratio is None or trace.base is None else exact_ratio(ratio),
        "band": trace.band.name if trace.band else None,
        "tone": trace.band.tone.value if trace.band else None,
        "condition": (trace.band.text or None) if trace.band else None,
        "where": analysis.filtered or None,
        "working": [f"{name}: {value} {how}".strip() for name, value, how in working(trace, analysis)],
        "extreme": why_extreme(trace, analysis) or None,
        "cautions": list(analysis.cautions),
    }
    return exact_json(record)


def _side_record(one: TracedSide) -> dict[str, Any]:
    return {
        "scenario": one.side.scenario,
        "from": one.side.summed.first.isoformat() if one.side.summed else None,
        "to": one.side.summed.end.isoformat() if one.side.summed else None,
        "amount": one.amount,
        "rows": one.rows,
        "largest": [
            {
                "place": row.place,
                "amount": row.amount,
                "cells": dict(zip(row.headings, row.cells, strict=True)),
            }
            for row in one.largest
        ],
    }
