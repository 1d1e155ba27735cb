"""The one query: what is asked of the facts of all sources, as SQL text with bound values.

A source is read once, into its `facts`, however many sides and periods there are.
"""

from __future__ import annotations

from collections.abc import Sequence

from marvex.core.compare.side import Span
from marvex.core.compare.totals import Total, TotalAs
from marvex.core.values import dataclass


@dataclass(frozen=True, slots=True)
class Query:
    """SQL text and the values bound to its question marks."""

    sql: str
    values: tuple[object, ...] = ()


# Every day of every scenario, kept or not, and how many amounts there are on it: how far the data are known.
CREATE_SCENARIO_DAYS = Query(
    "CREATE TEMP TABLE scenario_days AS SELECT scenario, day, "
    "sum(figures) FILTER (day IS NOT NULL OR date_text IS NULL) AS figures, "
    "coalesce(bool_and(amount = 0), true) AS is_zero FROM facts GROUP BY ALL"
)
SCENARIO_DAYS = Query(
    "SELECT scenario, day, coalesce(figures, 0)::BIGINT, is_zero FROM scenario_days ORDER BY scenario, day"
)

# How large the amounts of each scenario are on each day.
SIZES_OF_DAYS = Query("SELECT scenario, day, coalesce(sum(abs(amount)), 0) FROM facts WHERE kept GROUP BY ALL")


def cells_of(
    spans: Sequence[Span],
    categories: int,
    total_as: TotalAs,
    among: Sequence[tuple[str, ...]] | None = None,
    *,
    has_scenarios: bool = True,
    each: int = 0,
) -> Query:
    """The figures of several spans: place of the span, names, row, figure, what it is divided by, rows.

    Parameters
    ----------
    each : of balances, each category of so many columns has a last date of its own.
    categories : how many columns make a category; with none, one figure a span.
    among : the names of the categories that count, where not all of them do.
    has_scenarios : there are several, so that a day alone does not tell which rows are asked for.
    """
    stretches = [(place, one) for place, span in enumerate(spans) for one in span.stretches]
    values: tuple[object, ...] = (
        [place for place, _ in stretches],
        [one.scenario for _, one in stretches],
        [one.as_dated[0] for _, one in stretches],
        [one.as_dated[1] for _, one in stretches],
    )
    # One closing date for all: the last with any row, kept or not; nothing is carried forward.
    closing = "QUALIFY day IS NOT DISTINCT FROM max(day) OVER (PARTITION BY place)"
    columns = "".join(f", c{place}" for place in range(categories)) + (", row" if categories else ", NULL")
    # Distinct counts are of the rows themselves; all else is of rows already added up by date.
    table, rows, per = (
        ("keys", "sum(n)", "NULL") if total_as.way is Total.DISTINCT else ("facts", "sum(figures)", "sum(per)")
    )
    same_scenario = "facts.scenario IS NOT DISTINCT FROM days.scenario AND" if has_scenarios else ""
    where = "kept"
    if among is not None:
        names = ", ".join(f"c{place}" for place in range(len(among[0])))
        marks = ", ".join(f"({', '.join('?' for _ in one)})" for one in among)
        where += f" AND ({names}) IN ({marks})"
        values += tuple(name for one in among for name in one)
    is_closing, last = total_as.way is Total.CLOSING and not total_as.is_each, ""
    if total_as.is_each:
        own = "".join(f", facts.c{place}" for place in range(each))
        where += " AND figures > 0"
        last = f"QUALIFY facts.day IS NOT DISTINCT FROM max(facts.day) OVER (PARTITION BY days.place{own})"
    return Query(
        f"""WITH asked AS (
            SELECT unnest(?::INTEGER[]) AS place, unnest(?::VARCHAR[]) AS scenario,
                unnest(?::DATE[]) AS first, unnest(?::DATE[]) AS last
        ), days AS (
            SELECT place, known.scenario, known.day FROM scenario_days AS known JOIN asked
            ON known.scenario IS NOT DISTINCT FROM asked.scenario
                AND (asked.first IS NULL OR known.day BETWEEN asked.first AND asked.last)
            {closing if is_closing else ""}
        ), found AS (
            SELECT place, facts.* FROM {table} AS facts
            JOIN days ON {same_scenario} facts.day IS NOT DISTINCT FROM days.day
            WHERE {where} {last}
        )
        SELECT place{columns}, {_FIGURES[total_as.way]}, {per}, {rows}::BIGINT
        FROM found GROUP BY place{columns if categories else ""} HAVING {rows} > 0""",
        values,
    )


def rows_of(spans: Sequence[Span]) -> Query:
    """How many amounts each of several spans has."""
    counts, values = [], list[object]()
    for span in spans:
        conditions = []
        for one in span.stretches:
            within = "" if one.first is None else " AND day BETWEEN ? AND ?"
            conditions.append(f"(scenario IS NOT DISTINCT FROM ?{within})")
            values += [one.scenario] if one.first is None else [one.scenario, *one.as_dated]
        among = " OR ".join(conditions) or "false"
        counts.append(f"coalesce(sum(figures) FILTER (kept AND ({among})), 0)::BIGINT")
    return Query(f"SELECT {', '.join(counts)} FROM facts", tuple(values))


_FIGURES = {
    Total.SUM: "sum(amount)",
    Total.COUNT: "sum(amount)",
    Total.MEAN: "sum(amount)",
    Total.CLOSING: "sum(amount)",
    Total.DISTINCT: "count(DISTINCT key)::DECIMAL(38, 0)",
    Total.HIGHEST: "max(highest)",
    Total.LOWEST: "min(lowest)",
}


def last_days(spans: Sequence[Span], categories: int) -> Query:
    """The last date of each category within several spans: place of the span, date, names."""
    stretches = [(place, one) for place, span in enumerate(spans) for one in span.stretches]
    columns = "".join(f", c{place}" for place in range(categories))
    return Query(
        f"""WITH asked AS (
            SELECT unnest(?::INTEGER[]) AS place, unnest(?::VARCHAR[]) AS scenario,
                unnest(?::DATE[]) AS first, unnest(?::DATE[]) AS last
        )
        SELECT place, max(day){columns} FROM facts JOIN asked
        ON facts.scenario IS NOT DISTINCT FROM asked.scenario AND day BETWEEN asked.first AND asked.last
        WHERE kept AND figures > 0 GROUP BY place{columns}""",
        (
            [place for place, _ in stretches],
            [one.scenario for _, one in stretches],
            [one.as_dated[0] for _, one in stretches],
            [one.as_dated[1] for _, one in stretches],
        ),
    )


def extents(categories: int) -> Query:
    """The first and the last date of the kept rows that have an amount, by scenario and category."""
    columns = "".join(f", c{place}" for place in range(categories))
    return Query(
        f"SELECT scenario, min(day), max(day){columns} FROM facts WHERE kept AND figures > 0 AND day IS NOT NULL "
        f"GROUP BY scenario{columns}"
    )


# What each day comes to by itself: the figures of points along time are checked against these.
KEPT_BY_DAY = Query(
    "SELECT scenario, day, coalesce(sum(amount) FILTER (kept), 0), "
    "coalesce(sum(figures) FILTER (kept), 0)::BIGINT FROM facts WHERE day IS NOT NULL GROUP BY ALL ORDER BY day"
)
