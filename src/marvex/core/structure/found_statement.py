"""A statement out of the structure that was found in a table: kinds and signs from how each line counts."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cached_property
from itertools import combinations

from marvex.core.exact import ZERO
from marvex.core.structure.cost_names import income_and_costs, speaks_of_cost
from marvex.core.structure.evidence import TableLine
from marvex.core.structure.statement import Statement, StatementLine, checked
from marvex.core.structure.structure_found import Structure
from marvex.core.structure.sums import Shape, SumFound
from marvex.core.structure.total_names import Naming, is_opening_name, naming
from marvex.core.values import dataclass


def is_statement(structure: Structure) -> bool:
    """Whether what was found is a statement: a total within a total, a part subtracted, a ratio, a result, a balance.

    A table with one plain total is none, and no list that leads from an opening to a closing.
    """
    lines, totals = structure.lines, structure.totals
    sums = [one for one in structure.sums if one.shape is not Shape.MEMO]
    if not sums or _leads_from_opening(structure) or _are_groups(structure):
        return False
    return (
        bool(structure.ratios)
        or any(place in totals for one in sums for place, _ in one.parts)
        or any(sign < 0 for one in sums for _, sign in one.parts)
        or any(lines[one.line].naming is Naming.RESULT for one in sums)
        or any(_balance(lines, one, other) for one, other in combinations(sums, 2))
    )


def _are_groups(structure: Structure) -> bool:
    """Whether all that was found are groups that no name makes a total, and beside them lines or groups in none."""
    lines, totals = structure.lines, structure.totals
    are_plain = all(one.shape is Shape.PLUS for one in structure.sums) and not structure.ratios
    named = any(lines[place].naming.is_total for place in totals)
    parts = {place for one in structure.sums for place, _ in one.parts}
    apart = [place for place in {*structure.leaves, *totals} - parts if any(lines[place].figures)]
    return are_plain and not named and len(apart) > 1


def _balance(lines: Sequence[TableLine], one: SumFound, other: SumFound) -> bool:
    """Whether two totals are the same in all figures, of lines of their own: the two sides of a balance sheet."""
    figures = lines[one.line].figures
    are_apart = not {place for place, _ in one.parts} & {place for place, _ in other.parts}
    return are_apart and any(figures) and figures == lines[other.line].figures


def _leads_from_opening(structure: Structure) -> bool:
    """Whether a list of lines that are all added up starts from what it comes to at its end; of several blocks each
    does for itself."""
    lines = structure.lines
    closings = sum(line.naming is Naming.CLOSING for line in lines)
    is_one = closings == 1 or (not closings and is_opening_name(lines[0].label))
    return is_one and not is_signed(structure)


def is_signed(structure: Structure) -> bool:
    """Whether its lines cannot just be added up, since some of them are subtracted."""
    return any(sign < 0 for one in structure.sums if one.shape is not Shape.MEMO for _, sign in one.parts)


def statement_of(
    structure: Structure, labels: Sequence[str], sections: Mapping[int, str], *, is_down: bool = False
) -> Statement:
    """The statement that a table was found to be.

    Parameters
    ----------
    labels : what each line is called, each once.
    sections : the headings that stand before some of them.
    is_down : more is bad news where nothing in the table says it: it has only costs, or what lowers them beside them.
    """
    effects = _Effects(structure)
    costs = {place: effects.is_cost(place) for place in structure.leaves}
    raising, lowering = ([labels[one] for one, lowers in costs.items() if lowers is way] for way in (False, True))
    are_called_costs = is_down and _may_be_costs(raising, lowering, labels[effects.result])
    if is_turned := are_called_costs or _is_turned(structure, costs, effects):
        costs = {place: effects.is_debit(place) for place in costs}
    are_costs = is_down and not any(costs.values()) and not is_signed(structure)  # all of them, as is said
    if are_costs:
        costs = dict.fromkeys(costs, True)
    is_cost = dict(costs)
    for one in structure.sums:
        line, effect = structure.lines[one.line], effects.of(one.line) * (-1 if is_turned else 1)
        is_called = are_called_costs or speaks_of_cost(line.label)
        lowers = sum(filter(None, line.figures), start=ZERO) * effect < 0
        of_costs = all(costs[place] for place in effects.leaves_of(one.line))
        of_more_costs = lowers and (is_turned or effect < 0 or is_called)  # than of income, as recharges are
        is_cost[one.line] = (of_costs or of_more_costs) and (line.naming is not Naming.RESULT or is_called)
    by_line = {one.line: one for one in structure.sums}
    ratios = {one.line: one for one in structure.ratios}
    lines = []
    for place, line in enumerate(structure.lines):
        if place in structure.loose_ratios:
            continue
        total_of: tuple[int, ...] = ()
        if place in by_line:
            total_of = _parts(by_line[place], effects)
            if not total_of:
                continue
        ratio = ratios.get(place)
        has_accounts = place not in by_line and ratio is None
        sign = 1 if are_costs else effects.of(place) * (-1 if is_cost.get(place) else 1)
        lines.append(
            StatementLine(
                label=labels[place],
                accounts=(labels[place],) if has_accounts else (),
                total_of=tuple(labels[one] for one in total_of),
                ratio_of=(labels[ratio.over], labels[ratio.under]) if ratio else None,
                is_cost=is_cost.get(ratio.over if ratio else place, False),
                is_negative=has_accounts and (sign < 0) is not is_turned,
                section=sections.get(place, ""),
                indent=min(line.indent, 5),
            )
        )
    result = labels[effects.result]
    found = Statement(name="Statement", lines=tuple(lines), result_label=result, is_found=True, is_turned=is_turned)
    return checked(found)


def _may_be_costs(raising: Sequence[str], lowering: Sequence[str], result: str) -> bool:
    """Whether what raises a result may be costs, and what lowers it their recharges: no name says otherwise."""
    is_plain = naming(result) is not Naming.RESULT or speaks_of_cost(result)
    return bool(lowering) and is_plain and not income_and_costs(raising)[0] and not income_and_costs(lowering)[1]


def _is_turned(structure: Structure, costs: Mapping[int, bool], effects: _Effects) -> bool:
    """Whether what is called income lowers the result, and what is called a cost raises it: a table of debits less
    credits, whose profit is below zero, or in which a net expenditure is above it.

    Parameters
    ----------
    costs : whether each line that is no total lowers the result by its amounts.
    """
    nets = effects.net_costs
    raised = [sum(filter(None, structure.lines[one].figures), start=ZERO) * effects.of(one) for one in nets]
    if nets and len(set(costs.values())) > 1:
        return max(raised) > 0 if any(raised) else not costs[min(costs)]  # of nothing in all the costs come first
    lines = structure.lines
    called = [*costs, *(one.line for one in structure.sums if lines[one.line].naming is not Naming.RESULT)]
    amounts = {one: sum(filter(None, lines[one].figures), start=ZERO) for one in called}
    lowers = {one: amount * effects.of(one) < 0 for one, amount in amounts.items()}
    places = {lines[place].label: place for place, amount in amounts.items() if amount}
    income, named = ([places[one] for one in names] for names in income_and_costs(list(places)))
    if not all(lowers[one] for one in income) or any(lowers[one] for one in named):
        return False
    if not income:
        return bool(named) and sum(filter(None, lines[effects.result].figures), start=ZERO) < 0
    largest = max((abs(amounts[one]) for one in costs), default=ZERO)
    return bool(named) or largest <= max(abs(amounts[one]) for one in income)


def costs_as_income(statement: Statement) -> list[str]:
    """The lines that are called costs and were found to be income, where none is called income: what a sheet of debits
    may come to whose income has names that are not known."""
    lines = [line for line in statement.lines if line.accounts]
    income, costs = income_and_costs([line.label for line in lines])
    taken = [line.label for line in lines if line.label in costs and not line.is_cost]
    return taken if statement.has_both_kinds and not income else []


def may_be_of_costs(statement: Statement) -> bool:
    """Whether what was found to be income may be costs, and what was found to be costs what is taken off them."""
    plain, result = [line for line in statement.lines if line.accounts], statement.result
    raising, lowering = ([line.label for line in plain if line.is_cost is way] for way in (False, True))
    return result is not None and not result.is_cost and _may_be_costs(raising, lowering, result.label)


def may_be_turned(structure: Structure, statement: Statement) -> str | None:
    """The first line, where it and the result are below zero and no name says that it is a cost: revenue, in a sheet
    of debits less credits."""
    effects, lines = _Effects(structure), structure.lines
    leaves = effects.leaves_of(effects.result)
    amounts = {one: sum(filter(None, lines[one].figures), start=ZERO) for one in (effects.result, *leaves)}
    first = min(leaves, default=None)
    if (
        statement.is_turned
        or first is None
        or leaves[first] < 0
        or amounts[first] >= 0
        or amounts[effects.result] >= 0
    ):
        return None
    income, costs = income_and_costs([lines[one].label for one in leaves])
    lowers = {lines[one].label: amounts[one] * sign < 0 for one, sign in leaves.items()}
    is_said = any(lowers[one] for one in costs) or not all(lowers[one] for one in income)
    return None if is_said else lines[first].label


@dataclass(frozen=True)
class _Effects:
    """How each line counts in the result, or in what it is a part of beside it."""

    structure: Structure

    @cached_property
    def _sums(self) -> list[SumFound]:
        return [one for one in self.structure.sums if one.shape is not Shape.MEMO]

    @cached_property
    def _wholes(self) -> Mapping[int, SumFound]:
        """The first total that each line is a part of."""
        return {place: one for one in reversed(self._sums) for place, _ in one.parts}

    @cached_property
    def _by_line(self) -> Mapping[int, SumFound]:
        return {one.line: one for one in reversed(self.structure.sums)}

    @cached_property
    def result(self) -> int:
        """The last total that no other contains."""
        contained = {place for one in self._sums for place, _ in one.parts}
        return [one.line for one in self._sums if one.line not in contained][-1]

    @property
    def net_costs(self) -> list[int]:
        """The totals that are called what costs come to less what comes in: 'Net expenditure', 'Cost of goods made'."""
        lines, last = self.structure.lines, self.result
        called = [one.line for one in self._sums if speaks_of_cost(lines[one.line].label)]
        return [one for one in called if one == last or lines[one].naming is Naming.RESULT]

    def of(self, place: int) -> int:
        """1 or −1, as it is added or subtracted on the way up; 1 where it is a part of nothing."""
        whole = self._wholes.get(place)
        if whole is None:
            return 1
        return dict(whole.parts)[place] * self.of(whole.line)

    def leaves_of(self, place: int) -> dict[int, int]:
        """The lines that a total comes to, and the sign with which each counts in it."""
        whole = self._by_line.get(place)
        if whole is None:
            return {place: 1}
        found: dict[int, int] = {}
        for part, sign in whole.parts:
            for leaf, count in self.leaves_of(part).items():
                found[leaf] = found.get(leaf, 0) + sign * count
        return {leaf: count for leaf, count in found.items() if count}

    def is_cost(self, place: int) -> bool:
        """Whether a line lowers the result: by its amounts and how they count, else by its name."""
        line = self.structure.lines[place]
        whole = sum((figure for figure in line.figures if figure is not None), start=0)
        effect = self.of(place)
        if effect > 0 and not self._is_below_result(place):
            return False
        if not whole:
            return effect < 0 or speaks_of_cost(line.label)
        return whole * effect < 0

    def is_debit(self, place: int) -> bool:
        """Whether a line is a cost in a sheet of debits: what raises the result, which is turned."""
        line = self.structure.lines[place]
        whole = sum(filter(None, line.figures), start=ZERO)
        return whole * self.of(place) > 0 if whole else speaks_of_cost(line.label)

    def _is_below_result(self, place: int) -> bool:
        """Whether a total above it is called a result, or is one and nothing else: elsewhere an amount below zero is no
        cost."""
        whole = self._wholes.get(place)
        if whole is None:
            return False
        naming = self.structure.lines[whole.line].naming
        is_last = naming is Naming.NONE and whole.line == self.result
        return is_last or naming is Naming.RESULT or self._is_below_result(whole.line)


def _parts(one: SumFound, effects: _Effects) -> tuple[int, ...]:
    """The parts of a total; of one beside the others the lines that it comes to, none where those do not serve."""
    if one.shape is not Shape.MEMO:
        return tuple(place for place, _ in one.parts)
    counts = effects.leaves_of(one.line)
    ways = {count * effects.of(place) for place, count in counts.items()}
    return tuple(sorted(counts)) if len(ways) == 1 and ways <= {1, -1} else ()
