"""What the requests of a session have in common of a large source, asked of it once for all of them.

Such a source is added up by every column that some request needs, and each request's own facts are made of that.
"""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Sequence
from dataclasses import field, replace
from math import prod
from typing import Any, TypeVar

from marvex.core.errors import Mistake
from marvex.core.values import dataclass
from marvex.sources.columns import Column
from marvex.sources.columns_asked import found_column
from marvex.sources.engine.facts import KEPT, Facts
from marvex.sources.engine.query import Query
from marvex.sources.engine.source_asked import AskedOfSource
from marvex.sources.where import parse_filters

T = TypeVar("T")
MOST_GROUPS = 50_000  # as a sample lets expect them, of one day
WORTHWHILE = 2  # requests of one source


@dataclass(slots=True, eq=False)
class Gathered:
    """The large sources of a session, each added up by all columns that its requests name."""

    _asked: dict[str, list[AskedOfSource]] = field(default_factory=dict)
    _columns: tuple[str, ...] = ()
    _tables: dict[tuple[object, ...], str] = field(default_factory=dict)
    _answers: dict[tuple[object, ...], Any] = field(default_factory=dict)

    def once(self, key: tuple[object, ...], make: Callable[[], T]) -> T:
        """What a small source is asked once, whatever its requests are: a seventh of the demo's pack."""
        if key not in self._answers:
            self._answers[key] = make()
        found: T = self._answers[key]
        return found

    def hear(self, asked: Sequence[AskedOfSource], columns: Sequence[str] = ()) -> None:
        """Takes note of what will be asked, before any of it is.

        Parameters
        ----------
        columns : others that its rows will be kept by.
        """
        for one in asked:
            self._asked.setdefault(one.wanted.source, []).append(one)
        self._columns = tuple(dict.fromkeys((*self._columns, *columns)))

    def raw_of(
        self,
        facts: Facts,
        asked: AskedOfSource,
        columns: Sequence[Column],
        create: Callable[[Facts, str], None],
    ) -> Query | None:
        """What makes the table `raw` of what has been gathered; None where that has not all that the facts need.

        Parameters
        ----------
        columns : of the source.
        create : makes a table of that name, which other requests see too, of what facts of more columns are.
        """
        keys = self._keys(facts, asked, columns)
        if keys is None:
            return None
        of, roles = asked.wanted, facts.roles
        what = (of.source, of.table, of.query, facts.relation, keys, roles.date, roles.scenario, roles.amounts)
        # A lookup's columns have the same names whatever its file is.
        read = (asked.lookup, asked.lookup_column, facts.reading, facts.per_reading, facts.has_times)
        how = (*what, roles.per, facts.has_ends, *read)
        if how not in self._tables:
            table = f"gathered_{len(self._tables)}"
            create(replace(facts, roles=replace(facts.roles, by=keys, inner=0), filters=()), table)
            self._tables[how] = table
        return _raw_of(facts, self._tables[how], keys)

    def _keys(self, facts: Facts, asked: AskedOfSource, columns: Sequence[Column]) -> tuple[str, ...] | None:
        """The columns that the source is added up by; None where its requests are too few, or need its rows."""
        roles, requests = facts.roles, self._asked.get(asked.wanted.source, [])
        if len(requests) < WORTHWHILE or facts.key or roles.each_row or roles.headings or facts.is_numbered:
            return None
        headings = [one.name for one in columns]
        others = roles.taken
        named = dict.fromkeys(roles.by)
        for request in requests:
            with contextlib.suppress(Mistake):  # which is told of once that request is answered
                filters = parse_filters(request.where, headings, "")
                texts = (*request.columns.by, *request.columns.then_by, *(one.column for one in filters))
                named |= dict.fromkeys(found_column(text, headings, "", "by") for text in texts)
        named |= dict.fromkeys(name for name in self._columns if name in headings)
        # A name for nearly every row would gather nothing, and nor would too many columns together.
        known = {one.name: one for one in columns}
        many = {one.name for one in columns if 2 * one.distinct > one.filled > 1}
        keys = tuple(name for name in sorted(named) if name not in others and name not in many)
        if prod(known[name].distinct for name in keys) > MOST_GROUPS:
            return None
        needed = {*roles.by, *(one.column for one in facts.filters)} - {roles.date, roles.scenario}
        return keys if needed <= set(keys) else None


def _raw_of(facts: Facts, table: str, keys: Sequence[str]) -> Query:
    """What makes the table `raw` of what was gathered by some columns."""
    roles = facts.roles
    place_of = {roles.date: "date_text", roles.scenario: "scenario_text"} | {
        name: f"c{place}" for place, name in enumerate(keys)
    }
    conditions = [replace(one, column=place_of[one.column]).condition() for one in facts.filters]
    kept = " AND ".join(sql for sql, _ in conditions) or "true"
    own = [f"CASE WHEN {KEPT} THEN {place_of[name]} END AS c{place}" for place, name in enumerate(roles.by)]
    same = "row, scenario_text, date_text"
    figures = (
        "sum(amount) AS amount, sum(figures)::BIGINT AS figures, max(highest) AS highest, min(lowest) AS lowest, "
        f"sum(rows)::BIGINT AS rows, sum(unread) FILTER ({KEPT}) AS unread, max(decimals) FILTER ({KEPT}) AS decimals, "
        f"bool_or(doubtful) FILTER ({KEPT}) AS doubtful, sum(per) AS per, sum(per_unread) FILTER ({KEPT}) "
        "AS per_unread, max(per_decimals) AS per_decimals, min(first_row) AS first_row"
    )
    return Query(
        f"CREATE OR REPLACE TEMP TABLE raw AS SELECT {', '.join(own) or 'NULL AS c0'}, {same}, {KEPT} AS kept, "
        f"{figures} FROM (SELECT *, {kept} AS {KEPT} FROM {table}) GROUP BY ALL",
        tuple(value for _, bound in conditions for value in bound),
    )
