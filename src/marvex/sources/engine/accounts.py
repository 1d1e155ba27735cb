"""The accounts of a source, each on its line of a statement, with its amounts turned where they are stored so."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from typing import Any

from marvex.core.errors import Mistake, setting
from marvex.core.structure.statement import Statement, assign
from marvex.sources.columns_asked import found_column
from marvex.sources.engine import facts as facts_of
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.facts import Facts
from marvex.sources.engine.query import Query
from marvex.sources.quoting import quoted_text


def account_column(
    statement: Statement, headings: Sequence[str], sample: Sequence[Sequence[Any]], asked: str | None, source: str
) -> str:
    """The column of accounts: as named, else the one of whose values the largest part is on a line.

    Raises Mistake where none of them is.
    """
    if asked is not None:
        return found_column(asked, headings, source, "account")
    fitting = []
    for place, heading in enumerate(headings):
        values = {str(row[place]) for row in sample if row[place] is not None}
        fits = Fraction(sum(bool(statement.lines_of(one)) for one in values), max(1, len(values)))
        fitting.append((fits, -place, heading))
    most, _, heading = max(fitting)
    if not most:
        raise Mistake(
            f"{source}: no column has the accounts of {statement.name}", f"Name it with {setting('account')}."
        )
    return heading


def create_lines(statement: Statement, spare: str | None, facts: Facts, engine: Engine, source: str) -> None:
    """Creates the table of the line of each account, and of whether its amounts are turned.

    Raises Mistake where an account is on no line, or on two.
    """
    amounts = {str(account): amount for account, amount in engine.rows(facts_of.ACCOUNTS, source)}
    try:
        lines = assign(statement, amounts, spare)
    except Mistake as mistake:
        raise Mistake(f"{source}: {mistake.what}", mistake.mend) from None
    engine.run(Query(f"CREATE TEMP TABLE {facts.names} (name VARCHAR, shown VARCHAR, turned BOOLEAN)"), source)
    rows = ", ".join(
        f"({quoted_text(account)}, {quoted_text(line.label)}, {str(line.is_negative).lower()})"
        for account, line in lines.items()
    )
    if rows:
        engine.run(Query(f"INSERT INTO {facts.names} VALUES {rows}"), source)
