"""A profit-and-loss statement: which accounts make which line, which lines make a total, and in which order.

Income and cost are both normally positive here, whatever their signs in the source: amounts are turned
on reading. A line's effect on the result is then its change for income, and minus its change for cost.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from decimal import Decimal
from fnmatch import fnmatchcase
from fractions import Fraction
from functools import cached_property

from marvex.core.compare.comparison import Comparison
from marvex.core.compare.point import Kind, PanelsOf, Point
from marvex.core.compare.side import Pair
from marvex.core.errors import Mistake, did_you_mean, listed, setting
from marvex.core.exact import EXACT, rounded_ratio, total
from marvex.core.values import dataclass

RATIO_PLACES = 12  # decimals of a ratio line, far beyond the six of `--figures`
_RANGE = re.compile(r"(\d+)\s*-\s*(\d+)")


@dataclass(frozen=True, slots=True, kw_only=True)
class StatementLine:
    """One line: the accounts that make it, the lines that it is the total of, or those that it is a ratio of.

    Parameters
    ----------
    accounts : exact codes or names, ranges such as 4000-4099, and patterns with `*`.
    is_cost : better down; a total that is not said to be of costs counts as income.
    is_negative : its amounts are stored with the other sign.
    has_own_sign : that is said of it alone, and not of all of its kind.
    section : the heading over it, where one begins here.
    indent : how many steps it is set in.
    """

    label: str
    accounts: tuple[str, ...] = ()
    total_of: tuple[str, ...] = ()
    ratio_of: tuple[str, str] | None = None
    is_cost: bool = False
    is_negative: bool = False
    has_own_sign: bool = False
    section: str = ""
    indent: int = 0

    @property
    def is_total(self) -> bool:
        return bool(self.total_of)

    def sign_in(self, total: StatementLine) -> int:
        """How it counts in a total of it: what is of the other kind is subtracted, as a cost from a result is, and
        income from a net expenditure."""
        return 1 if self.is_cost is total.is_cost else -1

    def takes(self, account: str) -> bool:
        """Whether an account, by its code or its name, is on this line.

        >>> line = StatementLine(label="Fares", accounts=("4000-4099", "41*"))
        >>> [line.takes(one) for one in ("4050", "4110", "4200")]
        [True, True, False]
        """
        name = account.strip()
        for one in self.accounts:
            if bounds := _RANGE.fullmatch(one):
                if name.isdecimal() and int(bounds[1]) <= int(name) <= int(bounds[2]):
                    return True
            elif fnmatchcase(name.casefold(), one.casefold().replace("[", "[[]")):
                return True
        return False


@dataclass(frozen=True, kw_only=True)  # no slots, so that what is asked of it line by line can be kept
class Statement:
    """The lines in order, and what they come to.

    Parameters
    ----------
    result_label : the line that is the result; by itself the last total that no other contains.
    is_found : it was worked out from a table, each of whose lines is an account by its name.
    """

    name: str
    lines: tuple[StatementLine, ...]
    result_label: str | None = None
    is_found: bool = False
    is_turned: bool = False  # its table has what comes in below zero, as debits less credits

    @cached_property
    def result(self) -> StatementLine | None:
        """What the statement comes to."""
        if self.result_label is not None:
            return self.line(self.result_label)
        contained = {part for line in self.lines for part in line.total_of}
        totals = [line for line in self.lines if line.is_total]
        return next((line for line in reversed(totals) if line.label not in contained), None)

    @property
    def has_both_kinds(self) -> bool:
        """Whether it has income and costs, which are good news in opposite directions."""
        return len({line.is_cost for line in self.lines if line.accounts}) > 1

    @property
    def spoken(self) -> str:
        """In one line, what a found statement has: '3 income lines, 5 costs, 4 totals, 1 ratio'."""
        plain = [line for line in self.lines if line.accounts]
        kinds = (
            (sum(not line.is_cost for line in plain), "income line", "income lines"),
            (sum(line.is_cost for line in plain), "cost", "costs"),
            (sum(line.is_total for line in self.lines), "total", "totals"),
            (sum(line.ratio_of is not None for line in self.lines), "ratio", "ratios"),
        )
        of_kinds = kinds if self.has_both_kinds else ((len(plain), "line", "lines"), *kinds[2:])
        told = [f"{count} {one if count == 1 else several}" for count, one, several in of_kinds if count]
        result = self.result
        is_below = any(line.is_negative and not line.is_cost for line in self.lines)
        how = "income is below zero in it, and is shown turned" if is_below else "it comes to costs less income"
        turned = f"; {how}" if self.is_turned else ""
        turned += ", as the results are" if turned and result and not result.is_cost else ""
        return f"found a statement: {', '.join(told)}; the result is {result.label if result else 'none'}{turned}"

    def line(self, label: str) -> StatementLine:
        return self._by_label[label]

    @cached_property
    def _by_label(self) -> Mapping[str, StatementLine]:
        return {line.label: line for line in reversed(self.lines)}

    def lines_of(self, account: str) -> tuple[StatementLine, ...]:
        """The lines that an account is on: one, or the statement does not fit."""
        if self.is_found:
            return self._by_account.get(account.strip(), ())
        return tuple(line for line in self.lines if line.accounts and line.takes(account))

    @cached_property
    def _by_account(self) -> Mapping[str, tuple[StatementLine, ...]]:
        found: dict[str, tuple[StatementLine, ...]] = {}
        for line in self.lines:
            for account in dict.fromkeys(line.accounts):
                found[account] = (*found.get(account, ()), line)
        return found

    def effect_on_result(self, label: str) -> int:
        """How a line counts in the result: 1, −1, or 0 where it is not in it."""
        result = self.result
        if result is None or label == result.label:
            return 0
        return self.counts_in(result).get(label, 0)

    def counts_in(self, total: StatementLine) -> dict[str, int]:
        """How often each line counts in a total, however deep it lies: 1 added, −1 subtracted.

        Raises Mistake where totals go round in circles, or a line would count twice.
        """
        return self._counted.get(total.label, {})

    @cached_property
    def _counted(self) -> dict[str, dict[str, int]]:
        """What counts in each total, those that others are made of first."""
        known: dict[str, dict[str, int]] = {}
        for line in self.lines:
            if line.is_total:
                self._counts(line.label, known, ())
        return known

    def _counts(self, label: str, known: dict[str, dict[str, int]], above: tuple[str, ...]) -> dict[str, int]:
        if label in above:
            circle = listed((*above[above.index(label) :], label))
            raise Mistake(f"{self.name}: the totals {circle} go round in a circle", "Take one of them out.")
        if label in known:
            return known[label]
        total, found = self.line(label), dict[str, int]()
        for one in total.total_of:
            sign = self.line(one).sign_in(total)
            below = self._counts(one, known, (*above, label)) if self.line(one).is_total else {}
            for part, count in ((one, 1), *below.items()):
                found[part] = found.get(part, 0) + sign * count
                if abs(found[part]) > 1:
                    raise Mistake(
                        f"{self.name}, line '{label}' counts '{part}' twice",
                        "Name each line in one of its parts only.",
                    )
        known[label] = found
        return found


def headed_by(statement: Statement, lines: Sequence[str]) -> StatementLine | None:
    """The line that a headline is of: the result; of other lines alone their last total, or the line named first."""
    result = statement.result
    if not lines or (result is not None and result.label in lines):
        return result
    shown = [line for line in statement.lines if line.label in lines]
    return next(
        (line for line in reversed(shown) if line.is_total), min(shown, key=lambda one: lines.index(one.label))
    )


def check_lines(statement: Statement | None, lines: Sequence[str]) -> None:
    """Stops where lines are to be shown that are not there, or of no statement."""
    if lines and statement is None:
        raise Mistake(
            f"{setting('lines')} is about the lines of a statement, and there is none",
            f"Name its file with {setting('statement')}, or keep rows with {setting('where')}.",
        )
    known = [line.label for line in statement.lines] if statement else []
    for name in lines:
        if name not in known:
            raise Mistake(
                f"{setting('lines')}: the statement has no line '{name}'",
                did_you_mean(name, known, f"There are {listed(known, 8)}."),
            )


def with_lines(comparison: Comparison, statement: Statement, lines: Sequence[str]) -> Comparison:
    """The comparison of a statement with only some of its lines, once its totals are worked out."""
    head = headed_by(statement, lines)
    if not lines or head is None:
        return comparison
    points = tuple(point for point in comparison.points if point.category in lines)
    along = {point.category: point for point in comparison.panel_totals if point.category}
    whole = along.get(head.label) or next((one for one in points if one.category == head.label), None)
    totals = tuple(one for one in comparison.panel_totals if not one.category or one.category in lines)
    beyond = tuple(point for point in comparison.beyond if point.category in lines)
    if whole is not None and not any(point.group for point in comparison.points):
        comparison = replace(comparison, total=replace(whole, panels=PanelsOf.NOTHING))
    return replace(comparison, points=points, panel_totals=totals, beyond=beyond)


def assign(statement: Statement, amounts: Mapping[str, Decimal], spare: str | None) -> dict[str, StatementLine]:
    """The line of every account.

    Parameters
    ----------
    amounts : every account of the source with its amount.
    spare : the line that gathers the accounts which are on none.

    Raises Mistake where an account is on no line, or on two.
    """
    found: dict[str, StatementLine] = {}
    lost: list[str] = []
    for account, amount in amounts.items():
        lines = statement.lines_of(account)
        if len(lines) > 1:
            raise Mistake(
                f"account {account} ({amount:,}) is on two lines, {lines[0].label} and {lines[1].label}",
                f"Name it on one line of {statement.name}.",
            )
        if lines:
            found[account] = lines[0]
        elif spare:
            found[account] = statement.line(spare)
        else:
            lost.append(f"{account} ({amount:,})")
    if lost:
        accounts = "account" if len(lost) == 1 else "accounts"
        raise Mistake(
            f"{statement.name} has no line for {accounts} {listed(lost, 4)}",
            f"Add them to a line, or gather them with {setting('unmapped', 'Other')}.",
        )
    return found


def completed_in_panels(comparison: Comparison, statement: Statement, panels: Sequence[str]) -> Comparison:
    """The statement of each panel, where the lines that have accounts know their parts; each total is its result.

    Parameters
    ----------
    panels : the names of the parts, in order.
    """
    points: list[Point] = []
    totals = []
    for name in panels:
        own = [
            replace(part, category=one.category)
            for one in comparison.points
            for part in one.parts
            if part.category == name
        ]
        column = [replace(one, group=name, panels=PanelsOf.GROUPS) for one in _column(own, statement)]
        points += column
        totals.append(replace(_result(column, statement), name="Total", is_cost=None))
    whole = completed(comparison, statement)
    return replace(whole, points=tuple(points), panel_totals=tuple(totals))


def completed(comparison: Comparison, statement: Statement) -> Comparison:
    """The comparison of the lines that have accounts as the whole statement: in its order, with totals and ratios.

    Along time each period is a statement of its own. The comparison's total becomes the result.
    """
    if comparison.every is None:
        points = _column(comparison.points, statement)
        return replace(comparison, points=points, total=_result(points, statement), has_total=False)
    totals = [replace(one, name=None, panels=PanelsOf.NOTHING) for one in comparison.panel_totals]
    totals = list(_column(totals, statement))
    return replace(
        comparison,
        points=_along(comparison.points, statement),
        beyond=_along(comparison.beyond, statement),
        panel_totals=tuple(replace(one, name="Total", panels=PanelsOf.CATEGORIES) for one in totals),
        total=_result(totals, statement),
        has_total=False,
        last=None,
    )


def _along(points: Sequence[Point], statement: Statement) -> tuple[Point, ...]:
    """The statement of each period, line by line; each line is a panel."""
    periods: dict[str, list[Point]] = {}
    for point in points:
        periods.setdefault(point.label, []).append(point)
    columns = [_column(of_period, statement, of_period[0]) for of_period in periods.values()]
    by_line = {
        line.label: [point for column in columns for point in column if point.category == line.label]
        for line in statement.lines
    }
    return tuple(point for of_line in by_line.values() for point in of_line)


def _result(points: Sequence[Point], statement: Statement) -> Point:
    result = statement.result
    return next(point for point in points if result is not None and point.category == result.label)


def _column(points: Sequence[Point], statement: Statement, like: Point | None = None) -> tuple[Point, ...]:
    """One statement: its lines with rows, and what is made of them, in the statement's order."""
    known = {point.category: point for point in points}
    found: dict[str, Point] = {}
    result = statement.result
    within = statement.counts_in(result) if result else {}

    def made(line: StatementLine) -> None:
        for part in (*line.total_of, *(line.ratio_of or ())):
            if part not in found:
                made(statement.line(part))
        if line.is_total:
            point = _total(line, statement, found)
        elif line.ratio_of:
            point = _ratio(line, found)
        elif line.label in known:
            is_beside = not within.get(line.label)
            point = replace(known[line.label], kind=Kind.LINE, is_cost=line.is_cost, is_beside=is_beside)
        else:
            return
        found[line.label] = replace(point, pair=like.pair, panels=like.panels) if like else point

    for line in statement.lines:
        made(line)
    return tuple(found[line.label] for line in statement.lines if line.label in found)


def _total(line: StatementLine, statement: Statement, found: Mapping[str, Point]) -> Point:
    """Income added, costs subtracted; a side is absent only where it is so in all lines."""
    sides = []
    for is_current in (True, False):
        parts = _signed_parts(line, statement, found, is_current=is_current)
        sides.append(total(parts) if parts else None)
    return Point(category=line.label, current=sides[0], base=sides[1], kind=Kind.TOTAL, is_cost=line.is_cost)


def _signed_parts(
    line: StatementLine, statement: Statement, found: Mapping[str, Point], *, is_current: bool
) -> list[Decimal]:
    """What one side of a total is the sum of: the amounts of its parts, each as it counts in it."""
    parts = []
    for label in line.total_of:
        point = found.get(label)
        amount = None if point is None else point.current if is_current else point.base
        if amount is not None:
            parts.append(amount if statement.line(label).sign_in(line) > 0 else EXACT.minus(amount))
    return parts


def _ratio(line: StatementLine, found: Mapping[str, Point]) -> Point:
    """The one line by the other; absent where that is not above zero."""
    assert line.ratio_of is not None
    over, under = (found.get(label) for label in line.ratio_of)
    if over is None or under is None:
        return Point(category=line.label, current=None, base=None, kind=Kind.RATIO, is_cost=line.is_cost)
    current, base = _quotient(over.current, under.current), _quotient(over.base, under.base)
    return Point(category=line.label, current=current, base=base, kind=Kind.RATIO, is_cost=line.is_cost)


def _quotient(over: Decimal | None, under: Decimal | None) -> Decimal | None:
    if over is None or under is None or under <= 0:
        return None
    return rounded_ratio(Fraction(over) / Fraction(under), RATIO_PLACES)


def line_of(point: Point) -> str:
    """The label of the line that a point is of."""
    return point.category or ""


def sums_of(points: Sequence[Point], statement: Statement) -> Iterator[tuple[list[Decimal], Decimal]]:
    """Every total with the amounts that it is the sum of, costs with their sign: for both sides."""
    columns: dict[Pair | str | None, dict[str, Point]] = {}
    for point in points:
        columns.setdefault(point.pair if point.is_period else point.panel, {})[line_of(point)] = point
    for whole, known in ((one, column) for column in columns.values() for one in column.values()):
        if whole.kind is not Kind.TOTAL:
            continue
        line = statement.line(line_of(whole))
        if any(part not in known for part in line.total_of):
            continue  # not all of its parts are shown
        for is_current in (True, False):
            side = whole.current if is_current else whole.base
            if side is not None:
                yield _signed_parts(line, statement, known, is_current=is_current), side


def unexpected_signs(points: Sequence[Point], statement: Statement) -> tuple[str, ...]:
    """A caution about the lines whose amount is negative, though income and cost are both normally positive."""
    lines = [point for point in points if point.kind is Kind.LINE and not point.panel]
    names = [point.label for point in lines if point.current is not None and point.current < 0]
    if not names:
        return ()
    have = "has" if len(names) == 1 else "have"
    return (f"{listed(names, 4)} {have} a sign that {statement.name} does not expect: below zero once turned",)


def checked(statement: Statement) -> Statement:
    """The statement, if every line is made of lines that it has, each once.

    Raises Mistake otherwise.
    """
    labels = [line.label for line in statement.lines]
    for line in statement.lines:
        where = f"{statement.name}, line '{line.label}'"
        if labels.count(line.label) > 1:
            raise Mistake(f"{statement.name} has the line '{line.label}' twice", "Give each line its own label.")
        for part in (*line.total_of, *(line.ratio_of or ())):
            if part not in labels:
                raise Mistake(f"{where}: there is no line '{part}'", did_you_mean(part, labels, "Check the label."))
            if line.total_of.count(part) > 1:
                raise Mistake(f"{where} names '{part}' twice", "Name each part once.")
        for part in line.ratio_of or ():
            if statement.line(part).ratio_of:
                raise Mistake(f"{where} is a ratio of the ratio '{part}'", "Name lines of amounts.")
        for part in line.total_of:
            if statement.line(part).ratio_of:
                raise Mistake(f"{where} adds the ratio '{part}'", "Name lines of amounts.")
    result = statement.result_label
    if result is not None and result not in labels:
        raise Mistake(
            f"{statement.name}: the result '{result}' is no line", did_you_mean(result, labels, "Check the label.")
        )
    for line in statement.lines:
        if line.is_total:
            statement.counts_in(line)
    if statement.result is None:
        raise Mistake(f"{statement.name} has no total", "End it with a line of total_of = [...].")
    return statement
