"""What the amounts are called, and what they are compared by: the words about the data of a request."""

from __future__ import annotations

import re
from collections.abc import Sequence

from marvex.core.compare.plan import Plan
from marvex.core.compare.scenario_words import version_said
from marvex.core.compare.totals import Total
from marvex.core.errors import listed
from marvex.core.structure.statement import headed_by
from marvex.core.time.calendar import Grain
from marvex.core.words.printable import printable
from marvex.core.words.side_names import capitalised
from marvex.core.words.spelled_out import spelled_out
from marvex.request.axis import has_period_panels
from marvex.request.request import Request
from marvex.sources.dates import period_alone
from marvex.sources.engine.ledger import Ledger
from marvex.sources.headings import SUM_OF, parted
from marvex.sources.scales import without_unit
from marvex.sources.wide import CURRENT, AmountColumn


def subject(book: Ledger, request: Request, every: Grain | None) -> str:
    """What the amounts are called: their measure, or the statement's head line; and the rate."""
    statement, total_as = book.statement, request.total_as
    head = headed_by(statement, request.settings.lines) if statement else None
    name = head.label if head and request.settings.measure is None else _amounts(book, request)
    if total_as.per is not None:
        name = f"{name} per {total_as.per.replace('_', ' ')}"
    if total_as.per_day is not None:
        name = f"{name} per {total_as.per_day.value} day"
    if request.settings.cumulative and every is not None:
        word, _, count = request.settings.cumulative.partition(":")
        counted = Grain.MONTH if every.months else every
        name = f"{name}, {f'rolling {count} {counted.plural}' if count else word.replace('-', ' ')}"
    return name


# Headings that say no more than that there is an amount: what the rows were narrowed to says it all.
GENERAL = ("amount", "amounts", "net", "net amount", "gross", "gross amount", "value", "values", "figure", "figures")


def _amounts(book: Ledger, request: Request) -> str:
    """The measure as it is named, else the amount's heading with what the rows were narrowed to behind it."""
    if request.settings.measure is not None:
        return printable(request.settings.measure)
    roles, total_as = book.first.roles, request.total_as
    if total_as.way is Total.DISTINCT:
        name = things(str(total_as.column))
    elif total_as.way is Total.COUNT:
        name = "rows"
    else:
        named = [one.name for one in roles.amounts if one.scenario != one.name and not parted(one.name).is_said]
        # 'Spend' beside 'Budget' says what both are of, 'Sales' beside 'Sales LY' too.
        current = [one.name for one in roles.amounts if one.scenario == CURRENT and one.name in named]
        is_one = len(named) == 1 and len(roles.amounts) < 3 and not _in_all(roles.amounts)[0]
        is_said = len(current) == 1 or is_one
        name = _heading(book, (current or named)[0]) if is_said else _of_both(roles.amounts)
        if total_as.way in (Total.MEAN, Total.HIGHEST, Total.LOWEST):
            name = f"{total_as.way.value} {name}"
    narrowed = [one for one in (found.names_one for found in book.first.narrowed) if one and _is_name(one)]
    if narrowed and says_nothing(name):
        name, *narrowed = narrowed
    others = [one for one in narrowed if one.casefold() != name.casefold()]  # a heading that is kept by its name
    return printable(", ".join([capitalised(name), *others]))


def _of_both(sides: Sequence[AmountColumn]) -> str:
    """What amounts are by the words that the headings of all sides have in common.

    'Sales' of `Sales Actual` and `Sales Budget`; of `Oct Actual` and `Oct Budget`, which say only when, 'total, Oct'.
    """
    said, is_when = _in_all(sides)
    return f"total, {said}" if is_when else said or "total"


def _in_all(sides: Sequence[AmountColumn]) -> tuple[str, bool]:
    """The words that the headings of all sides have in common, without versions, and whether they only say when."""
    sides = [one for one in sides if one.name != one.scenario]  # 'Budget' beside 'Sales CY' and 'Sales PY'
    if len(sides) < 2 or any(one.scenario is None or one.period or one.category for one in sides):
        return "", False
    headings = [[word.strip("()[]") for word in without_unit(spelled_out(one.name)).split()] for one in sides]
    others = [{word.casefold() for word in words} for words in headings[1:]]
    named = {word for one in sides for word in (one.scenario or "").casefold().split()}  # which is said of each side
    both = [one for one in headings[0] if all(one.casefold() in words for words in others)]
    both = [one for one in both if one.casefold() not in named]
    said = [one for one in both if version_said(one) is None and any(map(str.isalnum, one))]
    return SUM_OF.sub("", " ".join(said)), bool(said) and all(
        period_alone(one) or _OF_TIME.fullmatch(one) for one in said
    )


_OF_TIME = re.compile(
    r"(?i)day|week|month|quarter|half|year|season|period|to|date|so|far|the|this|current|[ymqw]td|cum(?:ulative)?|full"
)


def says_nothing(name: str) -> bool:
    """Whether what amounts are called says no more than that there are some.

    >>> says_nothing("Total"), says_nothing("Crew")
    (True, False)
    """
    return name.casefold().lstrip("-") in (*GENERAL, "total")


def _heading(book: Ledger, heading: str) -> str:
    words = SUM_OF.sub("", spelled_out(heading))
    # Of an amount that is worked out every sign says something.
    return words.replace('"', "") if heading in book.first.worked_out else without_unit(words) or "amount"


_NUMBERED = re.compile(r"(?i)[\s_]*\b(?:id|no|nr|number|code|key)\.?$|_(?:id|no|nr|number|code|key)$")


def things(column: str) -> str:
    """What the distinct values of a column are: 'trips' of `trip_id`, 'tickets' of `ticket`.

    >>> [things(one) for one in ("trip_id", "ticket", "Party", "address no", "id")]
    ['trips', 'tickets', 'Parties', 'addresses', 'ids']
    """
    name = _NUMBERED.sub("", spelled_out(column)).strip() or column
    if name.endswith("y") and name[-2:-1] not in tuple("aeiou"):
        return f"{name[:-1]}ies"
    if name.endswith(("ss", "x", "ch", "sh")):
        return f"{name}es"
    return name if name.endswith("s") else f"{name}s"


def _is_name(value: str) -> bool:
    """Whether a value says in words what rows were narrowed to: not a code, not a date."""
    return any(sign.isalpha() for sign in value)


_LIMITS = {">=": "of at least", "<=": "of at most", ">": "above", "<": "below", "~": "like"}


def kept_words(book: Ledger) -> str:
    """The filters in words: 'only Drinks and account 5100, without Gross margin and Net profit'."""
    only, others = [], []
    for one in book.first.narrowed:
        values = listed(one.values, 4)
        if one.sign in _LIMITS:
            others.append(f"only {one.column} {_LIMITS[one.sign]} {values}")
            continue
        if not all(map(_is_name, one.values)):
            values = f"{spelled_out(one.column)} {values or 'empty'}"
        if one.sign == "=":
            only.append(values)
        else:
            others.append(f"without {values}")
    return ", ".join([*([f"only {' and '.join(only)}"] if only else []), *others])


def by_words(book: Ledger, request: Request, plan: Plan) -> str:
    """What the points are, in words: the columns compared by, the grain along time, and what has a panel each."""
    settings, statement = request.settings, book.statement
    if statement is not None:
        panels_by = spelled_out(settings.panels_by or "")
        said, is_when = _in_all(book.first.roles.amounts)
        name = f"{statement.name}, {said}" if is_when else statement.name
        return name + (f", a panel for each {panels_by}" if panels_by else "")
    if settings.panels_by is None or not settings.by:
        parts = [spelled_out(one) for one in book.first.compared_by]
        return " and ".join([*parts, plan.every.value] if plan.every else parts)
    names = [spelled_out(one) for one in book.first.roles.by]
    if has_period_panels(settings):
        return f"{' and '.join(names)}, a panel for each {settings.panels_by}"
    return f"{' and '.join(names[book.width :])}, a panel for each {' and '.join(names[: book.width])}"
