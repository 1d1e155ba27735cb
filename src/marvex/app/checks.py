"""Sources that do not belong together: stopped before anything is asked for."""

from __future__ import annotations

from itertools import pairwise

from marvex.core.compare.scenario_words import scenario_meant
from marvex.core.errors import Mistake, listed, setting
from marvex.request.request import Request
from marvex.sources.engine.ledger import Ledger
from marvex.sources.scales import code_of

_DOLLARS = frozenset({"USD", "CAD", "AUD", "NZD", "SGD", "HKD", "MXN"})


def check_sources(book: Ledger, request: Request) -> None:
    """Raises Mistake where scenarios, units or currencies of the sources are not what a figure can be made of."""
    _check_scenarios(book)
    if request.total_as.adds_rows:
        _check_units(book)
    _check_currencies(book, request.settings.currency)


def _check_scenarios(book: Ledger) -> None:
    """Raises Mistake where two scenarios are named for the same: the rows of one of them would be passed by."""
    known: dict[str, str] = {}
    for name in (one.name for one in book.scenarios if one.name):
        if (alike := known.setdefault(scenario_meant(name), name)) != name:
            own = f"{scenario_meant(alike)}={book.first.name}"
            raise Mistake(
                f"{book.name}: {alike} and {name} are two names of one scenario",
                f"Write them alike; or say which one a source holds ({own}), which takes both.",
            )


def _check_units(book: Ledger) -> None:
    """Raises Mistake where rows of several units would be added up."""
    for one in book.sources:
        if one.units is not None:
            column, found = one.units
            raise Mistake(
                f"{one.name} holds several units: {listed(found, 4)}",
                f"Keep the rows of one with {setting('where', f'{column}={found[0]}')}.",
            )


def _check_currencies(book: Ledger, asked: str | None) -> None:
    """Raises Mistake where the sources are in different currencies, or in another than is asked for, as far as they say
    it."""
    known = [(one.name, code_of(one.currency)) for one in book.sources if one.currency]
    for name, own in known if asked else ():
        if not _are_one_currency(own, str(asked).upper()) and (own == "$" or len(own) == len("EUR")):
            raise Mistake(
                f"{name} is in {own}, and {setting('currency', asked)} would show its figures as they stand",
                f"Convert them, such as with {setting('amount', 'net * 1.08')}, or leave {setting('currency')} out.",
            )
    for (name, own), (other, its) in pairwise(known):
        if not _are_one_currency(own, its):
            raise Mistake(
                f"{name} is in {own}, {other} in {its}, and they would be compared as they stand",
                f"Convert one of them, such as with {setting('amount', 'budget=net * 1.08')}.",
            )


def _are_one_currency(one: str, other: str) -> bool:
    return one == other or ("$" in (one, other) and bool({one, other} & _DOLLARS))
