"""What of a source is looked at while it is read, and refused or told before its figures are asked for."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date
from typing import Any

from marvex.core.compare.totals import Total, TotalAs
from marvex.core.errors import Mistake, did_you_mean, listed, setting
from marvex.sources.columns import Column
from marvex.sources.engine.source import Stops
from marvex.sources.roles import Roles
from marvex.sources.where import Filter

DAYS_LOOKED_AT, LEAST_DAYS, HOURS_EARLY = 29, 5, 2
Sample = Sequence[Sequence[str | None]]


def check_filters(
    filters: Sequence[Filter], roles: Roles, headings: Sequence[str], columns: Sequence[Column], sample: Sample
) -> None:
    """Raises Mistake where a condition is about scenarios, or compares what it cannot."""
    for one in filters:
        if one.column == roles.scenario:
            raise Mistake(
                f"{setting('where')} {one.spoken} is about the scenario",
                f"Scenarios are chosen with {setting('of')} and {setting('versus')}.",
            )
        place = headings.index(one.column)
        if one.is_about_letters and columns[place].is_figures:
            raise Mistake(
                f"{setting('where')} {one.spoken} compares {one.column}, which holds amounts, with a text",
                "Write it with a decimal point, such as 1234.5 or 10k.",
            )
        if one.is_about_days and (odd := next((row[place] for row in sample if not one.suits(row[place])), "")):
            raise Mistake(
                f"{setting('where')} {one.spoken} compares days, which {one.column} has as '{odd}'",
                f"Choose days with {setting('for_', '2026-01-01/2026-03-31')}.",
            )


def check_percentages(source: str, headings: Sequence[str], sample: Sample, roles: Roles, total_as: TotalAs) -> None:
    """Raises Mistake where percentages would be added up, which means nothing."""
    if total_as.way is not Total.SUM or roles.per:
        return
    for one in roles.amounts:
        place = headings.index(one.name)
        filled = [str(row[place]) for row in sample if row[place]]
        in_percent = [cell for cell in filled if "%" in cell]
        if 0 < len(in_percent) < len(filled) and not roles.each_row:  # a list has its ratios told apart already
            raise Mistake(
                f"{source}: {one.name} has percentages such as '{in_percent[0]}' among amounts, which do not add up",
                f"Keep rows of one kind with {setting('where')}, or count them with {setting('total_as', 'count')}.",
            )
        if len(in_percent) == len(filled) > 1:
            raise Mistake(
                f"{source}: {one.name} holds percentages, which do not add up",
                f"Say {setting('total_as', 'mean')}, or divide totals by totals with {setting('per', 'COL')}.",
            )


def nothing_kept(source: str, filters: Sequence[Filter], values: Callable[[str], list[str]]) -> Mistake:
    """What is to be said where no row is left.

    Parameters
    ----------
    values : gives all different values of a column.
    """
    if not filters:
        return Mistake(f"{source} has headings but no rows", "Give a file with rows of data.")
    for one in filters:
        known = values(one.column)
        missing = next((value for value in one.values if value not in known), None)
        if one.sign == "=" and missing is not None:
            return Mistake(
                f"no row has {one.column} '{missing}'",
                did_you_mean(missing, known, f"There are {listed(known, 6)}."),
            )
    return Mistake(
        f"no row passes {setting('where')} {' and '.join(one.spoken for one in filters)}", "Keep more rows."
    )


def stops_early(days: Sequence[tuple[Any, ...]]) -> Stops | None:
    """The last day, where its times stop hours before those of the days before it do.

    Parameters
    ----------
    days : the last of them with the last time on each, newest first.
    """
    if len(days) <= LEAST_DAYS:
        return None
    (last, at), *earlier = ((str(day), str(time)) for day, time in days)
    usual = sorted(time for _, time in earlier)[len(earlier) // 2]
    if _minutes(usual) - _minutes(at) < HOURS_EARLY * 60:
        return None
    return Stops(date.fromisoformat(last), f"{last} stops at {at}, days usually at {usual}")


def _minutes(time: str) -> int:
    return int(time[:2]) * 60 + int(time[3:5])
