"""An amount that a database or a cluster works out row by row, exactly: nothing is rounded before the end."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from marvex.core.errors import Mistake, setting
from marvex.core.values import dataclass
from marvex.sources.cells import MOST_DIGITS
from marvex.sources.expression import ColumnName, Expression, Number, columns_in, decimals_of_quotients

if TYPE_CHECKING:
    from sqlalchemy import ColumnElement

    from marvex.sources.readers.store import Store

_OF_QUOTIENTS = 24  # digits of a quotient, in whole numbers of its least unit, where digits are few


@dataclass(frozen=True, slots=True, eq=False)
class _Exact:
    """A figure of a row, with the digits and the decimals that it may have where those are few."""

    element: ColumnElement[Any]
    digits: int = 0
    decimals: int = 0


@dataclass(frozen=True, slots=True, eq=False)
class _Part:
    """A part of an amount, as the quotient that it is."""

    over: _Exact
    under: _Exact | None = None


def worked_out(
    store: Store, text: str, expression: Expression, decimals: Mapping[str, int]
) -> tuple[ColumnElement[Any], ColumnElement[Any]]:
    """What an expression is worth in a row, empty where a cell that it needs is, and whether it is no figure there.

    Parameters
    ----------
    text : as it was typed.
    decimals : of the columns that it names; their binary figures are rounded to so many.

    Raises Mistake where figures would have more digits than the store keeps.
    """
    from sqlalchemy import and_, or_

    working = _Working(store, text, decimals)
    part = working.part(expression)
    found = working.rounded(part, decimals_of_quotients(decimals.values())) if part.under else part.over
    named = [store.column(name).is_not(None) for name in columns_in(expression)]
    # Where digits are few, a figure that has too many of them is unknown.
    odd = or_(*working.none, and_(*named, found.element.is_(None)))
    return found.element, odd


def _columns(store: Store, decimals: Mapping[str, int]) -> dict[str, _Exact]:
    """The columns of an amount, each in as few digits as its largest figure has."""
    from sqlalchemy import Numeric, cast, func, select

    exact = {name: store.exact(name, some) for name, some in decimals.items()}
    if not store.most_digits:
        return {name: _Exact(cast(one, Numeric())) for name, one in exact.items()}
    sizes = select(*(func.max(func.abs(one)) for one in exact.values())).select_from(store.table)
    found = {}
    for (name, some), largest in zip(decimals.items(), store.rows(sizes)[0], strict=True):
        digits = some + len(str(int(largest or 0)))
        found[name] = _Exact(cast(exact[name], Numeric(digits, some)), digits, some)
    return found


class _Working:
    """The arithmetic of one amount."""

    def __init__(self, store: Store, text: str, decimals: Mapping[str, int]) -> None:
        self.store, self.text = store, text
        self.columns = _columns(store, decimals)
        self.none: list[ColumnElement[Any]] = []  # where it has no value, whatever is in the other columns

    def part(self, expression: Expression) -> _Part:
        match expression:
            case Number(text):
                return _Part(self.number(text))
            case ColumnName(name):
                return _Part(self.columns[name])
        left, right = self.part(expression.left), self.part(expression.right)
        if expression.sign == "/":
            self.none.append(right.over.element == 0)
            right = _Part(right.under or self.number("1"), right.over)
        under = self.times(left.under, right.under)
        if expression.sign in "*/":
            over = self.times(left.over, right.over)
            assert over is not None
            return _Part(over, under)
        one, other = self.times(left.over, right.under), self.times(right.over, left.under)
        assert one is not None and other is not None
        if expression.sign == "-":
            other = _Exact(-other.element, other.digits, other.decimals)
        decimals = max(one.decimals, other.decimals)
        whole = max(one.digits - one.decimals, other.digits - other.decimals)
        found = one.element + other.element
        if columns_in(expression.left) and columns_in(expression.right):
            from sqlalchemy import func

            # An empty cell counts as nothing beside one with a figure, as the debit of a row with a credit does.
            found = func.coalesce(found, one.element, other.element)
        return _Part(self.held(found, whole + decimals + 1, decimals), under)

    def number(self, text: str) -> _Exact:
        from sqlalchemy import Numeric, String, cast, literal

        whole, _, after = text.partition(".")
        decimals = len(after)
        digits = len(whole.lstrip("0")) + decimals or 1
        type_ = Numeric(digits, decimals) if self.store.most_digits else Numeric()
        return self.held(cast(literal(text, String), type_), digits, decimals)

    def times(self, one: _Exact | None, other: _Exact | None) -> _Exact | None:
        if one is None or other is None:
            return one or other
        return self.held(one.element * other.element, one.digits + other.digits + 1, one.decimals + other.decimals)

    def held(self, element: ColumnElement[Any], digits: int, decimals: int) -> _Exact:
        """A figure; raises Mistake where the store would drop digits of it."""
        if self.store.most_digits and digits > self.store.most_digits:
            raise Mistake(
                f"{self.store.name}: {setting('amount')} '{self.text}' may have more digits than are kept there",
                f"Work it out in a query, and name that with {setting('query', 'FILE.sql')}.",
            )
        return _Exact(element, digits, decimals)

    def rounded(self, part: _Part, decimals: int) -> _Exact:
        """A quotient to so many decimals, half even, by whole numbers of the least unit and what remains."""
        from sqlalchemy import Numeric, case, cast, func

        assert part.under is not None
        over = self.times(part.over, self.number(f"1{'0' * decimals}"))
        assert over is not None
        by = func.nullif(part.under.element, 0)
        rest = over.element % by  # with the sign of the dividend
        digits = _OF_QUOTIENTS if self.store.most_digits else 0
        whole_number = Numeric(digits or MOST_DIGITS, 0)
        whole = cast((over.element - rest) / by, whole_number)
        twice, size = func.abs(rest + rest), func.abs(by)
        is_up = (twice > size) | ((twice == size) & (whole % 2 != 0))
        is_negative = ((over.element < 0) & (by > 0)) | ((over.element > 0) & (by < 0))
        up = case((is_up & is_negative, -1), (is_up, 1), else_=0)  # a sign would be binary in some
        unit = self.number(f"0.{'0' * (decimals - 1)}1")
        found = self.times(_Exact(cast(whole + up, whole_number), digits), unit)
        assert found is not None
        return found
