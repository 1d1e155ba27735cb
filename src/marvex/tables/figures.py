"""The numbers behind a picture or table, the same for all views: `--figures`.

Amounts keep the source's digits, ratios are fractions to six decimals; no number passes through
binary floating point.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import date
from decimal import Decimal
from fractions import Fraction
from typing import TYPE_CHECKING, Any

from marvex.core.compare.comparison import Comparison, UnmatchedPart
from marvex.core.compare.point import STANDING, Kind, Point, State
from marvex.core.compare.result import SourceFacts
from marvex.core.compare.shown import Shown, ShownPoint
from marvex.core.compare.side import Side
from marvex.core.rules.bands import Band, Tone
from marvex.core.structure.statement import Statement
from marvex.core.words.side_names import side_title
from marvex.core.words.units import exact_ratio
from marvex.tables.exact_json import exact_json

if TYPE_CHECKING:
    from marvex.core.compare.since import Since
    from marvex.core.words.commentary import Sentence

FORMAT = 2  # of what is written: it grows only where a key changes its meaning
Record = dict[str, Any]  # one object of the JSON that is written; it goes no further than this module


def figures_json(shown: Shown, colours: Mapping[Tone, str], sentences: Sequence[Sentence] = ()) -> str:
    """All of it as JSON, every key always present; with the sentences of a commentary, where it is one."""
    analysis = shown.analysis
    first = analysis.first.comparison
    locale = analysis.figures.locale
    record = {
        "view": shown.view,
        "source": _source(analysis.source),
        "current": _side(first.current, locale),
        "base": _side(first.base, locale),
        "comparisons": [
            {
                "current": _side(one.comparison.current, locale),
                "base": _side(one.comparison.base, locale),
                "unmatched": [_unmatched(part) for part in one.comparison.unmatched],
            }
            for one in analysis.comparisons
        ]
        if len(analysis.comparisons) > 1
        else [],
        "points": _points(shown),
        "bands": [_band(band, shown, colours) for band in shown.legend()],
        "checks": [{"name": one.name, "ok": one.ok, "difference": one.difference} for one in shown.checks],
        "structure": _structure(analysis.statement),
        "labels_dropped": [
            {"panel": point.panel, "label": point.label, "count": count} for point, count in shown.dropped_by_point()
        ],
        "cautions": list(analysis.cautions),
        "format": FORMAT,
        "headline": shown.headline,
        "closing_date": _day(first.closing[0]),
        "base_closing_date": _day(first.closing[1]),
        "matched": _matched(analysis.first.comparison),
        "unmatched": [_unmatched(one) for one in first.unmatched],
        "since": _since(analysis.since),
    }
    if sentences:
        record["sentences"] = [{"about": _about(one), "text": one.text} for one in sentences]
    return exact_json(record)


def _matched(comparison: Comparison) -> Record | None:
    """The total over the periods that both sides have; null where there is no base, or no total."""
    whole = comparison.total
    if comparison.base is None or comparison.is_chained:
        return None
    current, base = comparison.current, comparison.base
    if whole.matched is not None:
        current, base = whole.matched.sides
        whole = replace(whole, current=whole.matched.current, base=whole.matched.base)
    ratio = whole.change_ratio
    return {
        "current": whole.current,
        "base": whole.base,
        "change_ratio": None if ratio is None else exact_ratio(ratio),
        **_days_summed("from", "to", current),
        **_days_summed("base_from", "base_to", base),
    }


def _since(since: Since | None) -> Record | None:
    if since is None:
        return None
    return {
        "file": since.file,
        "restated": [
            {
                "comparison": one.point.comparison,
                "panel": one.point.panel,
                "label": one.point.label,
                "side": "base" if one.is_base else "current",
                "was": one.was,
                "is": one.now,
            }
            for one in since.restated
        ],
        "bands_changed": [
            {
                "comparison": one.point.comparison,
                "panel": one.point.panel,
                "label": one.point.label,
                "was": one.was,
                "is": one.now,
            }
            for one in since.rebanded
        ],
    }


def _unmatched(one: UnmatchedPart) -> Record:
    return {
        "side": "base" if one.is_base else "current",
        "amount": one.amount,
        "from": _day(one.side.first),
        "to": _day(one.side.last),
    }


def _structure(statement: Statement | None) -> Record | None:
    """What a table was found to be: its lines, its totals with their parts, its ratios; null for a file's statement."""
    if statement is None or not statement.is_found:
        return None
    lines = statement.lines
    return {
        "result": statement.result.label if statement.result else None,
        "lines": [
            {"label": one.label, "kind": "cost" if one.is_cost else "income", "turned": one.is_negative}
            for one in lines
            if one.accounts
        ],
        "totals": [{"label": one.label, "total_of": list(one.total_of)} for one in lines if one.is_total],
        "ratios": [{"label": one.label, "ratio_of": list(one.ratio_of)} for one in lines if one.ratio_of],
    }


def _about(sentence: Sentence) -> str | None:
    point = sentence.about
    if point is None:
        return None
    return f"{point.panel}@{point.label}" if point.panel and point.pair else point.panel or point.label


def figures_csv(shown: Shown) -> str:
    """The points alone, one a row, under the same names."""
    records = _points(shown)
    text = io.StringIO()
    writer = csv.DictWriter(text, fieldnames=list(records[0]), lineterminator="\n")
    writer.writeheader()
    for record in records:
        writer.writerow({name: _plain(value) for name, value in record.items()})
    return text.getvalue()


def _source(facts: SourceFacts) -> Record:
    return {"name": facts.name, "rows_read": facts.rows_read, "rows_used": facts.rows_used}


def _side(side: Side | None, locale: str) -> Record | None:
    if side is None:
        return None
    return {
        "label": side_title(side, locale),
        "from": _day(side.first),
        "to": _day(side.last),
        "scenario": side.scenario,
        "actual_to": _day(side.joined_at),
    }


def _points(shown: Shown) -> list[Record]:
    has_drivers = shown.has_drivers
    return [_point(one, shown, has_drivers=has_drivers) for one in shown.points]


def _point(one: ShownPoint, shown: Shown, *, has_drivers: bool) -> Record:
    point, band = one.judged.point, one.judged.band
    comparison = shown.analysis.comparisons[one.comparison].comparison
    now, then = point.sides(comparison.current, comparison.base)
    is_standing = point.kind in STANDING
    is_change = shown.takes_amounts_as_changes  # which have neither side
    change = None if is_standing or (comparison.base is None and not is_change) else point.change
    if one.start is not None and not is_standing:
        change = point.movement
    return {
        "panel": point.panel,
        "label": point.label,
        "kind": "other" if point.gathered and point.kind is Kind.POINT else point.kind.value,
        "state": "ok" if is_standing else _state(point, comparison),
        "comparison": one.comparison,
        "scenario": (now or comparison.current).in_use,
        **_days_summed("from", "to", now),
        **_days_summed("base_from", "base_to", then),
        "current": None if is_change else _exact(point, point.current),
        "base": None if is_change else _exact(point, point.base),
        "change": _exact(point, change),
        "change_ratio": _ratio(one, is_standing),
        "effect": None if point.is_cost is None or change is None or point.kind is Kind.RATIO else point.effect,
        "contribution": None if point.contribution is None else exact_ratio(point.contribution),
        "band": band.name if band else None,
        "tone": band.tone.value if band else "standing" if is_standing else None,
        "start": one.start,
        "end": one.end,
        "remark": " ".join(remark.text for _, remark in shown.analysis.remarks_on(point)) or None,
        **({"drivers": {one.name: one.amount for one in point.drivers}} if has_drivers else {}),
        **({"parts": [_part(part) for part in point.parts]} if shown.view == "commentary" else {}),
    }


def _days_summed(first: str, last: str, side: Side | None) -> Record:
    days = side.days_summed if side else None
    return {first: _day(days[0]) if days else None, last: _day(days[1]) if days else None}


def _exact(point: Point, amount: Decimal | None) -> Decimal | None:
    """An amount with the source's own digits; a ratio line's as a fraction to six decimals."""
    return exact_ratio(Fraction(amount)) if point.kind is Kind.RATIO and amount is not None else amount


def _part(part: Point) -> Record:
    return {"label": part.label, "current": part.current, "base": part.base, "change": part.movement}


def _state(point: Point, comparison: Comparison) -> str:
    if comparison.base is not None:
        return point.state.value
    return State.NO_CURRENT.value if point.pair and point.current is None else State.OK.value


def _ratio(one: ShownPoint, is_standing: bool) -> Decimal | None:
    ratio = None if is_standing else one.judged.point.change_ratio
    return None if ratio is None else exact_ratio(ratio)


def _band(band: Band, shown: Shown, colours: Mapping[Tone, str]) -> Record:
    return {
        "name": band.name,
        "tone": band.tone.value,
        "colour": colours[band.tone],
        "condition": band.text or None,
        "points": shown.met(band),
    }


def _day(day: date | None) -> str | None:
    return day.isoformat() if day else None


def _plain(value: object) -> object:
    return f"{value:f}" if isinstance(value, Decimal) else value
