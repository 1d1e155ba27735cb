"""Whether sources sign their lines as a statement has it, and two of them, or two scenarios, in the same way."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal
from itertools import combinations

from marvex.core.errors import Mistake, listed, setting
from marvex.core.structure.statement import Statement
from marvex.core.values import dataclass
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.query import Query
from marvex.sources.engine.source import Source

LEAST_LINES = 2  # that have to be signed so
NEARLY_ALL, LARGE = Decimal("0.8"), Decimal("0.3")  # of a statement's lines of a kind; of a list, by size
_LIKE = (Decimal("0.5"), Decimal(2))  # the sizes between which two amounts are of the same thing


@dataclass(frozen=True, slots=True)
class SignedSide:
    """What one scenario of one source comes to, category by category, and in how many months it has amounts."""

    source: Source
    scenario: str | None
    amounts: dict[str, Decimal]
    months: int = 1

    @property
    def spoken(self) -> str:
        return f"{self.source.name} ({self.scenario})" if self.scenario else self.source.name


def check_signs(sources: Sequence[Source], statement: Statement | None, engine: Engine, width: int) -> None:
    """Stops where two sides sign their lines in opposite ways, or one otherwise than is said of it.

    It names the lines and what mends it. Where the call says of both that they are signed in one way, they may differ.

    Parameters
    ----------
    width : how many columns make a category.
    """
    if not width:
        return
    is_said = statement is not None and any(one.asked.sign is not None for one in sources)
    columns = ", ".join(f"c{place}" for place in range(width))
    asked = Query(
        f"SELECT source, scenario, concat_ws(' / ', {columns}), sum(amount) FROM facts "
        f"WHERE kept AND figures > 0 GROUP BY ALL HAVING sum(amount) <> 0 ORDER BY ALL LIMIT 20000"
    )
    counted = Query(
        "SELECT source, scenario, count(DISTINCT date_trunc('month', day)) FROM facts WHERE kept AND figures > 0 "
        "GROUP BY ALL"
    )
    months = {(source, scenario): max(1, count) for source, scenario, count in engine.rows(counted, sources[0].name)}
    sides: dict[tuple[int, str | None], SignedSide] = {}
    for source, scenario, category, amount in engine.rows(asked, sources[0].name):
        of = source, scenario
        side = sides.setdefault(of, SignedSide(sources[source], scenario, {}, months[of]))
        side.amounts[str(category)] = Decimal(amount)
    for one, other in combinations(() if is_said else sides.values(), 2):
        for is_cost in (False, True) if statement else (None,):
            names = opposite_lines(one, other, statement, is_cost)
            if names:
                raise disagreement(one, other, names, are_several=len(sources) > 1, is_cost=is_cost)
    if statement is not None and not statement.is_found:
        for side in sides.values():
            for is_cost in (False, True):
                _check_expected(side, statement, is_cost)


def _check_expected(side: SignedSide, statement: Statement, is_cost: bool) -> None:
    """Stops where nearly all lines of a kind come out below zero: costs would be added to the result."""
    lines = {line.label: line for line in statement.lines if line.is_cost is is_cost and not line.has_own_sign}
    amounts = {name: amount for name, amount in side.amounts.items() if name in lines}
    below = [name for name, amount in amounts.items() if amount < 0]
    are_few = len(below) < LEAST_LINES or len(below) < NEARLY_ALL * len(amounts)
    if are_few or sum(amounts.values()) >= 0:
        return
    told = f"{listed(below, 4)} of {side.spoken} are below zero"
    if side.source.asked.sign is not None:
        raise Mistake(
            f"as {setting('source_sign')} has it, {told}",
            "Choose the one of positive, negative, effect and credit by which income and costs are both above zero.",
        )
    kind = "cost" if is_cost else "income"
    now, other = ("negative", "positive") if lines[below[0]].is_negative else ("positive", "negative")
    raise Mistake(
        f"{statement.name} has {kind}_sign = '{now}', by which {told}",
        f"Write {kind}_sign = '{other}', or sign = '{now}' at each line that is meant so.",
    )


def opposite_lines(
    one: SignedSide, other: SignedSide, statement: Statement | None = None, is_cost: bool | None = None
) -> list[str]:
    """The lines of a kind that two sides sign in opposite ways, where all but a few that both have are so.

    None without a statement where the call says of both that they are signed in one way.
    """
    signs = {one.source.asked.sign, other.source.asked.sign}
    if statement is None and None not in signs and len(signs) == 1:
        return []
    of_kind = None if statement is None else {line.label for line in statement.lines if line.is_cost is is_cost}
    common = [
        name
        for name, amount in one.amounts.items()
        if name in other.amounts
        and (of_kind is None or name in of_kind)
        and _are_alike(one, other, abs(amount / other.amounts[name]))
    ]
    opposite = [name for name in common if (one.amounts[name] < 0) != (other.amounts[name] < 0)]
    if len(opposite) < LEAST_LINES:
        return []
    if statement is not None:
        return opposite if len(opposite) >= NEARLY_ALL * len(common) else []
    # Amounts of either sign on both sides, as results are, are none that one of them stores otherwise.
    is_plain = any(len({amount > 0 for amount in side.amounts.values()}) == 1 for side in (one, other))
    if not is_plain and len(opposite) < NEARLY_ALL * len(common):
        return []
    sizes = {name: abs(one.amounts[name]) for name in common}
    is_large = sum(sizes[name] for name in opposite) >= LARGE * sum(sizes.values())
    return opposite if is_large else []


def _are_alike(one: SignedSide, other: SignedSide, times: Decimal) -> bool:
    """Whether two amounts are of the same thing, in all or a month: actuals may be there for more years."""
    of_month = times * other.months / one.months
    return any(_LIKE[0] <= each <= _LIKE[1] for each in (times, of_month))


def disagreement(
    one: SignedSide, other: SignedSide, names: Sequence[str], *, are_several: bool, is_cost: bool | None = None
) -> Mistake:
    """What is to be said of two sides that sign lines in opposite ways, of one source or of several."""
    what = _opposite_said(one, other, names)
    if is_cost is None and any(side.source.asked.sign is not None for side in (one, other)):
        # Nothing is known of costs alone, and what is said turns all lines of a source, or none.
        return Mistake(
            f"as {setting('source_sign')} has it, {what}",
            "Leave it out; or say of both how they sign income and costs, with a statement "
            f"({setting('statement')}) of which lines are costs.",
        )
    wrong = one if one.amounts[names[0]] < 0 else other
    sign = {None: "negative", True: "effect", False: "credit"}[is_cost]
    # Where both sign other lines in the same way, turning all of one side would turn those as well.
    common = one.amounts.keys() & other.amounts.keys()
    is_mixed = is_cost is None and any((one.amounts[name] < 0) == (other.amounts[name] < 0) for name in common)
    lines = f"which lines are costs, with a statement ({setting('statement')}), and " if is_mixed else ""
    name = wrong.scenario or wrong.source.scenario or "budget"
    said = setting("source_sign", f"{name}={'effect' if is_mixed else sign}")
    if are_several and wrong.source.scenario:
        return Mistake(what, f"Say {lines}how that one signs its amounts: {said}.")
    return Mistake(
        what,
        f"Read that scenario as a source of its own, {name}={wrong.source.name}, and say {lines}how it signs its "
        f"amounts: {said}; or mend the table.",
    )


def _opposite_said(one: SignedSide, other: SignedSide, names: Sequence[str]) -> str:
    first = names[0]
    return (
        f"{one.spoken} and {other.spoken} sign {listed(names, 4)} in opposite ways: {first} is "
        f"{one.amounts[first]:,} and {other.amounts[first]:,}"
    )
