"""In which weeks, months, quarters and years of a file one row is the sum of the others."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal

from marvex.core.time.calendar import Grain
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.query import Query
from marvex.sources.engine.source import Source

GRAINS = (Grain.WEEK, Grain.MONTH, Grain.QUARTER, Grain.YEAR)
_LEAST_PARTS = 3
_SHOWN = 50  # sums that are looked at of one period


@dataclass(frozen=True, slots=True, kw_only=True)
class SumsOfPeriod:
    """Of one period: in how many groups of like rows the first or the last by date is the sum of the others.

    Parameters
    ----------
    grain, start : the period, by its first day of the civil calendar.
    groups : the groups that have enough of different amounts to tell.
    found : how many of them have such a row.
    sums, day : the amounts of some of these rows, and the last day of one; None where there is none.
    """

    grain: Grain
    start: date
    groups: int
    found: int
    sums: tuple[Decimal, ...]
    day: date | None


def sums_of_periods(source: Source, columns: Sequence[str], engine: Engine) -> list[SumsOfPeriod]:
    """The periods of a file, of its kept rows; like rows are those that are alike in some columns."""
    roles = replace(source.roles, by=tuple(columns), inner=0, each_row=False)
    facts = replace(source.facts, roles=roles, key=None, is_numbered=False, names="", has_signs=False)
    rows, values = facts.source_rows(False)
    names = "".join(f"c{place}, " for place in range(len(columns)))
    # There are far fewer days than rows, and they are what is grouped four times.
    by_day = (
        f"SELECT {names}scenario_text, date_text, sum(net) AS net, count(*) AS n, max_by(net, abs(net)) AS largest, "
        f"min(abs(net)) AS least FROM (SELECT *, {facts.reading.amount('amount_text')} AS net FROM ({rows}) "
        "WHERE kept) WHERE net <> 0 GROUP BY ALL"
    )
    grains = [grain.value for grain in GRAINS]
    starts = ", ".join(f"date_trunc('{grain}', day)::DATE AS {grain}" for grain in grains)
    sets = ", ".join(f"({names}scenario_text, {grain})" for grain in grains)
    which = " ".join(f"WHEN {grain} IS NOT NULL THEN '{grain}'" for grain in grains)
    grouped = (
        f"SELECT CASE {which} END AS grain, coalesce({', '.join(grains)}) AS start, sum(net) AS whole, sum(n) AS rows, "
        "max_by(largest, abs(largest)) AS largest, max_by(day, abs(largest)) AS its, min(day) AS first, "
        f"max(day) AS last, min(least) AS least FROM (SELECT *, {starts} FROM ({by_day}) JOIN {facts.days} "
        f"USING (date_text) WHERE day IS NOT NULL) GROUP BY GROUPING SETS ({sets})"
    )
    # Three equal instalments after a first payment of as much are no sum that was written beside its parts.
    can_tell = f"rows > {_LEAST_PARTS} AND least * (rows - 1) <> abs(largest)"
    is_sum = "FILTER (whole = 2 * largest AND its IN (first, last))"
    met = engine.rows(
        Query(
            f"SELECT grain, start, count(*), count(*) {is_sum}, list(largest) {is_sum}, max(its) {is_sum} "
            f"FROM ({grouped}) WHERE {can_tell} GROUP BY grain, start ORDER BY grain, start",
            tuple(values),
        ),
        source.name,
    )
    return [
        SumsOfPeriod(
            grain=Grain(grain), start=start, groups=groups, found=found, sums=tuple((sums or ())[:_SHOWN]), day=day
        )
        for grain, start, groups, found, sums, day in met
    ]
