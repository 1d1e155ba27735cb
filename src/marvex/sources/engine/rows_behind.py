"""The rows behind the figures: the largest of them, how many they are, and each by itself."""

from __future__ import annotations

from collections.abc import Sequence

from marvex.core.compare.side import Stretch
from marvex.sources import cells
from marvex.sources.engine.facts import Facts
from marvex.sources.engine.query import Query


def largest(
    facts: Facts, stretch: Stretch, names: tuple[str, ...] | None, headings: Sequence[str], most: int
) -> Query:
    """The rows that count most in one figure: number, amount as it counts, and all their cells."""
    source, values = facts.source_rows(True, headings)
    sign = "-" if facts.is_negative else ""
    amount = f"{sign}{facts.scaled(facts.reading.amount('amount_text'))}"
    if facts.has_signs:
        turned = f"(SELECT turned FROM {facts.names} WHERE {facts.names}.name = {cells.name('c0')})"
        amount = f"CASE WHEN {turned} THEN -({amount}) ELSE {amount} END"
    conditions = ["kept", f"{facts.scenario} IS NOT DISTINCT FROM ?"]
    bound: list[object] = [*values, stretch.scenario]
    if stretch.first is not None:
        conditions.append(f"date_text IN (SELECT date_text FROM {facts.days} WHERE day BETWEEN ? AND ?)")
        bound += stretch.as_dated
    for place, name in enumerate(names or ()):
        trimmed = cells.name(f"c{place}")
        found = f"SELECT shown FROM {facts.names} WHERE {facts.names}.name = {trimmed}"
        shown = f"coalesce(({found}), {trimmed})"
        conditions.append(f"{shown if place < facts.named else trimmed} = ?")
        bound.append(name)
    where = " AND ".join(conditions)
    return Query(
        f"SELECT * FROM (SELECT number, amount_column, {amount} AS counted, whole FROM ({source}) WHERE {where}) "
        f"WHERE counted IS NOT NULL ORDER BY abs(counted) DESC, number LIMIT {most}",
        tuple(bound),
    )


def largest_of_each(
    facts: Facts, stretches: Sequence[tuple[int, Stretch]], headings: Sequence[str], most: int
) -> Query:
    """The rows that count most in each category of each stretch: its place, names, number, amount, all cells."""
    source, values = facts.source_rows(True, headings)
    sign = "-" if facts.is_negative else ""
    amount = f"{sign}{facts.scaled(facts.reading.amount('amount_text'))}"
    counted = "CASE WHEN n0.turned THEN -figure ELSE figure END" if facts.has_signs else "figure"
    rows = f"(SELECT *, {amount} AS figure, {facts.scenario} AS own_scenario FROM ({source}))"
    names = ", ".join(f"c{place}" for place in range(max(1, len(facts.roles.by))))
    return Query(
        f"""WITH asked AS (
            SELECT unnest(?::INTEGER[]) AS place, unnest(?::VARCHAR[]) AS asked_scenario,
                unnest(?::DATE[]) AS first, unnest(?::DATE[]) AS last
        ), found AS (
            SELECT {facts.shown()}, days.day, number, amount_column, {counted} AS counted, whole, own_scenario
            FROM {facts.with_days(rows)} WHERE kept AND figure IS NOT NULL
        )
        SELECT place, {names}, number, amount_column, counted, whole FROM found JOIN asked
        ON own_scenario IS NOT DISTINCT FROM asked_scenario AND (first IS NULL OR day BETWEEN first AND last)
        QUALIFY row_number() OVER (PARTITION BY place, {names} ORDER BY abs(counted) DESC, number) <= {most}
        ORDER BY place, abs(counted) DESC, number""",
        (
            [place for place, _ in stretches],
            [one.scenario for _, one in stretches],
            [one.as_dated[0] for _, one in stretches],
            [one.as_dated[1] for _, one in stretches],
            *values,
        ),
    )


def rows_with_a_figure(facts: Facts, stretches: Sequence[Stretch]) -> Query:
    """How many rows have an amount in one of the stretches, however many of their columns are amounts."""
    source, values = facts.source_rows(True)
    conditions, bound = [], list[object](values)
    for one in stretches:
        condition = f"{facts.scenario} IS NOT DISTINCT FROM ?"
        bound.append(one.scenario)
        if one.first is not None:
            condition += f" AND date_text IN (SELECT date_text FROM {facts.days} WHERE day BETWEEN ? AND ?)"
            bound += one.as_dated
        conditions.append(f"({condition})")
    return Query(
        f"SELECT count(DISTINCT number) FROM ({source}) WHERE kept AND {facts.reading.amount('amount_text')} "
        f"IS NOT NULL AND ({' OR '.join(conditions)})",
        tuple(bound),
    )


def each_row(facts: Facts) -> Query:
    """Every amount by itself: categories, row, scenario, date, whether it is kept, amount, divisor and key."""
    source, values = facts.source_rows(False)
    columns = "row, scenario_text, date_text, kept, amount_text, per_text, key"
    return Query(f"SELECT {facts.categories()}, {columns} FROM ({source})", tuple(values))
