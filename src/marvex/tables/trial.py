"""A rule tried on data, in a terminal and as JSON."""

from __future__ import annotations

from decimal import Decimal
from fractions import Fraction
from typing import Any

from rich import box
from rich.table import Table
from rich.text import Text

from marvex.core.compare.result import Analysis
from marvex.core.exact import rounded_ratio
from marvex.core.rules.conditions import ValueKind
from marvex.core.rules.trial import Near, TriedRule
from marvex.core.words.units import MINUS, FigureFormat, exact_ratio
from marvex.core.words.wording import point_name
from marvex.tables.exact_json import exact_json
from marvex.tables.screen import screen
from marvex.tables.terminal import PLAIN_WIDTH, QUIET, TONES

STRONG = "bold"
SHOWN_NEAR = 12


def print_trial(rules: tuple[TriedRule, ...], analysis: Analysis, subtitle: str) -> None:
    """Prints what each rule does on standard output."""
    console = screen(PLAIN_WIDTH)
    console.print(Text(subtitle, style=QUIET))
    for one in rules:
        console.print()
        if one.rule.name:
            only = f", for {', '.join(one.rule.applies_to)}" if one.rule.applies_to else ""
            console.print(Text(f"{one.rule.name}{only}", style=STRONG))
        console.print(_bands(one, analysis.figures))
        for line in _notes(one, analysis.figures):
            console.print(Text(f"  {line}"))


def _bands(one: TriedRule, figures: FigureFormat) -> Table:
    table = Table(box=box.SIMPLE_HEAD, show_edge=False, pad_edge=False, header_style=QUIET)
    table.add_column("Band", no_wrap=True)
    table.add_column("Condition")
    table.add_column("Points", justify="right")
    table.add_column("Change in all", justify="right")
    for taken in one.bands:
        tone = TONES[taken.band.tone]
        fails = " (fails)" if taken.band.fails else ""
        name = Text(f"{taken.band.name}{fails}", style=tone)
        change = figures.change(taken.change) if taken.points else ""
        table.add_row(name, Text(taken.band.text, style=QUIET), str(taken.points), Text(change, style=tone))
    return table


def _notes(one: TriedRule, figures: FigureFormat) -> list[str]:
    notes = []
    for unmet in one.never_met:
        why = "its condition contradicts itself" if unmet.never_holds else "an earlier band always holds first"
        notes.append(f"{unmet.band.name} can never be met: {why}.")
    if one.near:
        notes.append("Within a tenth of a threshold:")
        notes += [f"  {_near(near, figures)}" for near in one.near[:SHOWN_NEAR]]
    if len(one.near) > SHOWN_NEAR:
        notes.append(f"  and {len(one.near) - SHOWN_NEAR} more")
    return notes


def _near(near: Near, figures: FigureFormat) -> str:
    has, threshold = (_shown(value, near.unit, figures) for value in (near.has, near.threshold))
    name = point_name(near.point, figures.locale)
    return f"{name}: {near.quantity.value} {has}, the threshold of {near.band.name} is {threshold}"


def _shown(value: Fraction, unit: ValueKind, figures: FigureFormat) -> str:
    if unit is ValueKind.AMOUNT:
        return figures.headline(rounded_ratio(value, 6))
    percent = "%" if unit is ValueKind.PERCENT else ""
    return f"{rounded_ratio(value * (100 if percent else 1), 2):f}{percent}".replace("-", MINUS)


def trial_json(rules: tuple[TriedRule, ...], analysis: Analysis) -> str:
    """All of it as JSON, every figure exact."""
    return exact_json({"rules": [_record(one) for one in rules], "cautions": list(analysis.cautions)})


def _record(one: TriedRule) -> dict[str, Any]:
    return {
        "name": one.rule.name or None,
        "applies_to": list(one.rule.applies_to),
        "bands": [
            {
                "name": taken.band.name,
                "tone": taken.band.tone.value,
                "condition": taken.band.text or None,
                "fails": taken.band.fails,
                "points": taken.points,
                "change": taken.change,
            }
            for taken in one.bands
        ],
        "near": [
            {
                "panel": near.point.panel,
                "point": near.point.label,
                "band": near.band.name,
                "quantity": near.quantity.value,
                "has": _exact(near.has),
                "threshold": _exact(near.threshold),
            }
            for near in one.near
        ],
        "never_met": [{"band": unmet.band.name, "contradicts_itself": unmet.never_holds} for unmet in one.never_met],
    }


def _exact(value: Fraction) -> Decimal:
    return exact_ratio(value)
