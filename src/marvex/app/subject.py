"""What the amounts are called, and what they are compared by: the words about the data of a request."""

from __future__ import annotations

from marvex.core.compare.plan import Plan
from marvex.core.compare.totals import Total
from marvex.core.structure.statement import headed_by
from marvex.core.time.calendar import Grain
from marvex.core.words.side_names import capitalised
from marvex.request.axis import has_period_panels
from marvex.request.request import Request
from marvex.sources.engine.ledger import Ledger


def subject(book: Ledger, request: Request, every: Grain | None) -> str:
    """What the amounts are called: the one thing that the rows were narrowed to, else the column; and the rate."""
    statement, total_as = book.statement, request.total_as
    head = headed_by(statement, request.settings.lines) if statement else None
    name = head.label if head else _amounts(book, request)
    if total_as.per is not None:
        name = f"{name} per {total_as.per.replace('_', ' ')}"
    if total_as.per_day is not None:
        name = f"{name} per {total_as.per_day.value} day"
    if request.settings.cumulative and every is not None:
        word, _, count = request.settings.cumulative.partition(":")
        name = f"{name}, {f'rolling {count} {every.plural}' if count else word.replace('-', ' ')}"
    return name


def _amounts(book: Ledger, request: Request) -> str:
    roles, total_as = book.first.roles, request.total_as
    narrowed = next((one for one in (f.names_one for f in reversed(book.first.filters)) if _is_name(one)), None)
    if total_as.way is Total.DISTINCT:
        name = f"distinct {total_as.column}"
    elif total_as.way is Total.COUNT:
        name = "number of rows"
    elif len(roles.amounts) == 1:
        name = roles.amounts[0].name.replace("_", " ")
    else:
        name = "total"
    if total_as.way in (Total.MEAN, Total.HIGHEST, Total.LOWEST, Total.CLOSING):
        name = f"{total_as.way.value} {name}"
    if narrowed is None:
        return capitalised(name)
    return capitalised(narrowed) if total_as.way is Total.SUM else capitalised(f"{name}, {narrowed}")


def _is_name(value: str | None) -> bool:
    """Whether a value says in words what rows were narrowed to: not a code, not a date."""
    return value is not None and any(sign.isalpha() for sign in value)


def by_words(book: Ledger, request: Request, plan: Plan) -> str:
    """What the points are, in words: the columns compared by, the grain along time, and what has a panel each."""
    settings, statement = request.settings, book.statement
    if statement is not None:
        panels_by = (settings.panels_by or "").replace("_", " ")
        return statement.name + (f", a panel for each {panels_by}" if panels_by else "")
    if settings.panels_by is None or not settings.by:
        parts = [one.replace("_", " ") for one in book.first.compared_by]
        return " and ".join([*parts, plan.every.value] if plan.every else parts)
    names = [one.replace("_", " ") for one in book.first.roles.by]
    if has_period_panels(settings):
        return f"{' and '.join(names)}, a panel for each {settings.panels_by}"
    return f"{' and '.join(names[book.width :])}, a panel for each {' and '.join(names[: book.width])}"
