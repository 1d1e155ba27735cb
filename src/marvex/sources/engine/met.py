"""Which values of a column have amounts, of which scenario and when: asked of the rows, for the facts do not say it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date
from decimal import Decimal
from typing import TypeAlias

from marvex.sources.engine.connection import Engine
from marvex.sources.engine.query import Query
from marvex.sources.engine.source import Source
from marvex.sources.where import Filter

# A value of a column, the scenario and the day of its amounts, whether all are 0, and their sum as the source has it.
Met: TypeAlias = tuple[str, str | None, date | None, bool, Decimal | None]


def met(source: Source, columns: Sequence[str], filters: Sequence[Filter], engine: Engine) -> list[Met]:
    """Each value of a column with each scenario and day of which it has amounts.

    Parameters
    ----------
    columns : the one column, or none: then the value is empty.
    filters : the conditions that count; whether a side has a period is told by all rows else.
    """
    roles = replace(source.roles, by=tuple(columns), inner=0, each_row=False)
    own = replace(source.facts, roles=roles, filters=tuple(filters), key=None, has_ends=True)
    own = replace(own, is_numbered=False, names="", has_signs=False)
    days = {}
    if roles.has_dates:
        days = dict(engine.rows(Query(f"SELECT date_text, day FROM {own.days}"), source.name))
    # Rows of others than the one that the source is said to hold do not count.
    is_held = source.facts.held is not None
    return [
        (str(value), its, days.get(text), *rest)
        for value, its, text, *rest in source.rows.met(own)
        if its is not None or not is_held
    ]
