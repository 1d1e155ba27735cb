"""What the names of lines say against adding them up: rates and counts, averages, unlike units, both sides of one."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from marvex.core.compare.scenario_words import PRIOR_NAMES, says_planned, version_said
from marvex.core.errors import Mistake, listed, setting
from marvex.core.structure.amount_names import is_rate, statistics_among
from marvex.core.structure.aspect_names import told_again
from marvex.core.structure.cost_names import are_measures, counts_or_rates
from marvex.core.structure.total_names import Naming, is_opening_name, namings
from marvex.sources.headings import sided
from marvex.sources.scales import currencies_said, power_said, without_unit
from marvex.sources.where import filter_text


def check_names(
    source: str,
    column: str,
    names: Sequence[str],
    columns: Mapping[str, str] | None = None,
    *,
    may_stand: bool = False,
) -> None:
    """Raises Mistake where names of a column say that its amounts do not add up: counts or rates, or several sides.

    Parameters
    ----------
    columns : where the names are of headings, the columns of amounts, each with its name.
    may_stand : of steps, among which what was reached so far has a name too.
    """
    _check_sides(source, column, names)
    if not may_stand:
        _check_told_again(source, column, names)
    units = {(currencies_said([one]), power_said([one])): one for one in names if without_unit(one) != one.strip()}
    if len(units) > 1:
        raise Mistake(
            f"{source}: by name {listed([*units.values()], 3)} are in unlike units, and would be added up",
            f"Keep those of one with {setting('where', f'{column}={next(iter(units.values()))}')}; "
            f"{setting('total_as', 'sum')} adds up all the same.",
        )
    statistics = statistics_among(names)
    # What a list starts from and comes to counts what its steps do.
    ends = {names[0], names[-1]} if namings(names)[-1:] == [Naming.CLOSING] else set[str]()
    others = statistics or [one for one in counts_or_rates(names) if one not in ends and not is_opening_name(one)]
    if are_measures(column) and len(names) > 1:
        raise Mistake(
            f"{source}: each {column} is of something else, and {listed(names, 3)} would be added up",
            f"Keep one with {setting('where', f'{column}={names[0]}')}; "
            f"{setting('total_as', 'sum')} adds up all the same.",
        )
    if len(names) > 1 and all(map(is_rate, names)):
        raise Mistake(
            f"{source}: {listed(names, 3)} are rates by name, and rates do not add up",
            f"Say {setting('total_as', 'mean')}; {setting('total_as', 'sum')} adds up all the same.",
        )
    if not others or len(others) == len(names):
        return
    are, them = ("is a count or a rate", "it") if len(others) == 1 else ("are counts or rates", "them")
    if statistics:
        are = f"{are.split()[0]} worked out of the others"
    amount = next(one for one in names if one not in others)
    kept = ",".join(one for one, name in (columns or {}).items() if name not in others)
    way = f"Leave {them} out with {setting('where', f'{column}!=' + ','.join(others))}"
    if kept:
        way = f"Name those of one kind with {setting('amount', kept)}"
    raise Mistake(
        f"{source}: {listed(others, 3)} {are} by name, and would be added up with '{amount}'",
        f"{way}; {setting('total_as', 'sum')} adds up all the same.",
    )


def _check_told_again(source: str, column: str, names: Sequence[str]) -> None:
    """Raises Mistake where lines say one amount in several ways, or one of them is a side of the others."""
    again, side = told_again(names), _side_among(names)
    if not again and not side:
        return
    what = f"{listed(map(repr, again), 3)} are one amount in several ways by name, and would be added up"
    leave, out = "Leave all but one out", again[1:]
    if not again:
        what = f"'{side}' is a side by its name, and would be added up with the other {column}"
        leave, out = "Leave it out", (side,)
    raise Mistake(
        f"{source}: {what}",
        f"{leave} with {setting('where', filter_text(column, '!=', out))}; "
        f"{setting('total_as', 'sum')} adds up all the same.",
    )


def _side_among(names: Sequence[str]) -> str:
    """The one name of a side among those of lines, such as `Last year`; but what a list starts from and comes to."""
    sides = [one for one in names if says_planned(one) or one.strip().casefold() in PRIOR_NAMES]
    others = [one for one in names if one not in sides and not version_said(one)]
    return sides[0] if len(sides) == 1 and len(others) > 1 and sides[0] != names[0] else ""


def _check_sides(source: str, column: str, names: Sequence[str]) -> None:
    """Raises Mistake where the actual and the budget of one name are two names: 'Fares actual', 'Fares budget'."""
    said = {name: its for name in names if (its := sided(name))}
    found: dict[str, dict[str, str]] = {}
    for name, (side, rest) in said.items():
        found.setdefault(rest.casefold(), {}).setdefault(side.casefold(), name)
    sides = next((list(one.values()) for one in found.values() if len(one) > 1), None)
    # What a list opens with and closes at is alike but for its side.
    if sides is not None and (len(names) == len(sides) or {names[0], names[-1]} != set(sides)):
        first = said[sides[0]][0]
        pattern = (
            f"{column}~*{first}" if sides[0].casefold().endswith(str(first).casefold()) else f"{column}~{first}*"
        )
        raise Mistake(
            f"{source}: '{sides[0]}' and '{sides[1]}' are sides of one amount by name, and would be added up",
            f"Keep those of one with {setting('where', pattern)}, or write the side into a column of its own; "
            f"{setting('total_as', 'sum')} adds up all the same.",
        )
