"""What of a source is looked at while it is read, and refused or told before its figures are asked for."""

from __future__ import annotations

import re
from collections.abc import Callable, Collection, Sequence
from dataclasses import replace
from datetime import date
from decimal import Decimal
from typing import Any

from marvex.core.compare.totals import Total, TotalAs
from marvex.core.errors import Mistake, did_you_mean, listed, nearest, setting
from marvex.core.structure.total_names import is_opening_name
from marvex.core.words.names_alike import without_small_marks
from marvex.sources.columns import Column
from marvex.sources.dates import month_alone, outside_the_months
from marvex.sources.engine.source import Stops
from marvex.sources.headings import no_headings
from marvex.sources.roles import Roles
from marvex.sources.where import Filter

_OF_NO_MONTH = (
    r"\b(?:adj|adjust\w*|corrections?|un(?:allocated|assigned|dated|posted)|(?:closing|late|year[- ]end) entries)\b|"
    r"^P(?:eriod)? ?1[3-6]$"
)
_EARLIER = r"\b(?:prior|previous|earlier|before|past)\b"
DAYS_LOOKED_AT, LEAST_DAYS, HOURS_EARLY = 29, 5, 2
Sample = Sequence[Sequence[str | None]]


def without_headings(columns: Sequence[Column], source: str) -> Mistake | None:
    """What is to be said where the headings are a row of data: a date over dates, or a figure over figures."""
    figures = [one.name for one in columns if one.is_figures]
    dates = [one.name for one in columns if one.is_dates]
    return no_headings([one.name for one in columns], figures, dates, source)


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


def passed_by(filters: Sequence[Filter], texts: Callable[[str], Collection[str]]) -> tuple[str, ...]:
    """Cautions of names that a condition passes by, though they are alike but for case or blanks with one it names.

    Parameters
    ----------
    texts : gives the different texts of a column.
    """
    told = []
    for one in filters:
        if one.sign in ("=", "!="):
            meant = {without_small_marks(value) for value in one.values}
            cells = {*texts(one.column)} - set(one.values)
            others = sorted(cell for cell in cells if cell and without_small_marks(cell) in meant)
        elif one.sign == "~":
            alike = replace(one, values=tuple(value.casefold() for value in one.values))
            others = sorted(
                cell for cell in texts(one.column) if alike.keeps(cell.casefold()) and not one.keeps(cell)
            )
        else:
            continue
        if others:
            told.append(
                f"{setting('where', one.spoken)} passes {listed(others, 3)} by, which differs in case or blanks"
            )
    return tuple(told)


def in_no_row(filters: Sequence[Filter], texts: Callable[[str], Collection[str]]) -> tuple[str, ...]:
    """Cautions of values that a condition names beside others and that no row has, as where one has another name now.

    Parameters
    ----------
    texts : gives all different texts of a column.
    """
    told = []
    for one in filters:
        if one.sign != "=" or len(one.values) < 2:
            continue
        cells = {*texts(one.column)}
        lacking = [value for value in one.values if not any(map(replace(one, values=(value,)).keeps, cells))]
        if lacking and len(lacking) < len(one.values):
            like = nearest(lacking[0], cells - {*one.values, ""})
            hint = f": did you mean {like}?" if like else ""
            told.append(f"{setting('where', one.spoken)}: no row has {listed(lacking, 3)}{hint}")
    return tuple(told)


def check_percentages(
    source: str, headings: Sequence[str], sample: Sample, roles: Roles, total_as: TotalAs, *, are_lines: bool = False
) -> None:
    """Raises Mistake where percentages would be added up, which means nothing.

    Parameters
    ----------
    are_lines : of a statement, which has its ratios told apart, or of a list that keeps all of them.
    """
    if total_as.way is not Total.SUM or roles.per:
        return
    for one in (one for one in roles.amounts if one.name in headings):
        place = headings.index(one.name)
        filled = [str(row[place]) for row in sample if row[place]]
        in_percent = [cell for cell in filled if "%" in cell]
        if 0 < len(in_percent) < len(filled) and not are_lines:
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


def outside_the_year(
    place: str, unread: Sequence[tuple[str, int, object]], column: str, texts: Sequence[str], year: str | None
) -> Mistake | None:
    """What is to be said where all dates that cannot be read are what is brought forward, or a year's adjustments.

    Parameters
    ----------
    place : the first of them, as a message says it.
    unread : each text, the rows that have it and their amount.
    column, texts : which leave them out.
    year : the column of their years, where those stand in one of their own.
    """
    numbers = [outside_the_months(text) for text, _, _ in unread]
    found = sorted({one for one in numbers if one is not None})
    if None in numbers or not found:
        return None
    rows, amount = sum(count for _, count, _ in unread), sum(Decimal(str(one or 0)) for _, _, one in unread)
    periods, rows_are = "period" if len(found) == 1 else "periods", "row" if rows == 1 else "rows"
    said = f"{column}!={','.join(texts)}"
    out = f"{setting('where', said)} leaves them out"
    return Mistake(
        f"{place}: {periods} {listed(map(str, found))} beside a year's 12 months ({rows} {rows_are}, {amount} in all)",
        f"{out}, {setting('date', year)} counts them in their year." if year else f"{out}.",
    )


def beside_the_periods(columns: Sequence[Column], roles: Roles, parts: Sequence[str]) -> list[str]:
    """The columns of amounts that a year holds and that are of none of the periods across, such as its adjustments.

    Parameters
    ----------
    parts : the columns that a total across, which was left out, is the sum of.
    """
    if not all(one.period for one in roles.amounts):
        return []
    free = [one.name for one in columns if one.figures and one.name not in roles.taken]
    held = [one for one in free if one in parts or _is_of_no_month(one)]
    return [one for one in held if not is_opening_name(one) and not re.search(_EARLIER, one, re.IGNORECASE)]


def _is_of_no_month(heading: str) -> bool:
    """Whether a heading says what a year has beside its months, or several of them at once: 'Adj', 'P13', 'Nov-Dec'."""
    months = re.split(r"\s*(?:[-–/&+]|\bto\b|\band\b)\s*", re.sub(r"\b(?:19|20)\d\d\b", "", heading).strip())
    several = len(months) > 1 and all(month_alone(one) for one in months)
    is_outside = several or outside_the_months(heading) is not None
    return is_outside or re.search(_OF_NO_MONTH, heading, re.IGNORECASE) is not None


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
