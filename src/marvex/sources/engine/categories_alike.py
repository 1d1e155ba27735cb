"""Whether all sources are compared by as many columns, so that their categories can be the same."""

from __future__ import annotations

from collections.abc import Sequence

from marvex.core.errors import Mistake, listed, setting
from marvex.sources.engine.source import Source
from marvex.sources.expression import named_in


def check_categories(sources: Sequence[Source]) -> None:
    """Raises Mistake where the headings of one source are categories beside those that both are compared by."""
    by_width = sorted(sources, key=lambda source: len(source.roles.by))
    other, one = by_width[0], by_width[-1]
    if len(one.roles.by) <= max(len(other.roles.by), 1):  # what has no categories is one
        return
    headings = [amount.name for amount in one.roles.amounts]
    of = f"{one.asked.name}=" if one.asked.name else ""
    whole = one.file.total_across or " + ".join(map(named_in, headings))
    raise Mistake(
        f"{one.name} has amounts in several columns, {listed(headings, 2)}, and {other.name} none by their names",
        f"Say which is the amount, such as {setting('amount', f'{of}{whole}')}.",
    )
