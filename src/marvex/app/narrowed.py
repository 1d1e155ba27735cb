"""Conditions that narrow one of several sources alone, so that a part is set against the whole."""

from __future__ import annotations

from itertools import permutations

from marvex.core.compare.reservation import Reservation
from marvex.sources.engine.ledger import Ledger


def narrowed_in_one_only(book: Ledger) -> tuple[Reservation, ...]:
    """One for each condition that keeps one value in one source, where another has that among others in a column of the
    same name."""
    found = []
    for source, other in permutations(book.sources, 2):
        if source.asked.wanted.source == other.asked.wanted.source:
            continue  # of one file each side may keep its own version
        known = {heading.strip().casefold(): heading for heading in other.headings}
        theirs = {one.column.strip().casefold() for one in other.narrowed}
        for one in source.filters:
            column = known.get(one.column.strip().casefold())
            if not one.names_one or column is None or column.strip().casefold() in theirs:
                continue
            values = other.values(column)
            if len(values) > 1 and one.names_one in values:
                found.append(f"only {source.name} is narrowed by {one.spoken}: {other.name} has {column} too")
    return tuple(Reservation(what=one) for one in dict.fromkeys(found))
