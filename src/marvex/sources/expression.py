"""An amount that is worked out: `quantity * price`, with + - * /, brackets, numbers, and "odd names" in quotes."""

from __future__ import annotations

import operator
import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from decimal import ROUND_HALF_EVEN, Decimal
from fractions import Fraction
from typing import TypeAlias

from marvex.core.errors import Mistake, setting
from marvex.core.exact import EXACT, rounded_ratio
from marvex.core.values import dataclass
from marvex.sources.columns_asked import found_column

_TOKEN = re.compile(
    r'\s*(?:(?P<number>\d+(?:\.\d+)?)(?![\w.])|"(?P<quoted>[^"]+)"|(?P<name>[^\W\d]\w*)|(?P<sign>[-+*/()]))'
)

_NAME = re.compile(r"[^\W\d]\w*")
DIVISION_BY_ZERO = "a division by 0"  # in place of a figure
MORE_DECIMALS = 6  # of a quotient than of what it is made of, as rates and means have
LEAST_DECIMALS = 12  # of a quotient, since many of them are added up
_SIGNS: dict[str, Callable[[Fraction, Fraction], Fraction]] = {
    "+": operator.add,
    "-": operator.sub,
    "*": operator.mul,
    "/": operator.truediv,
}


@dataclass(frozen=True, slots=True)
class Number:
    """A plain number."""

    text: str


@dataclass(frozen=True, slots=True)
class ColumnName:
    """The amount in a column of the row."""

    name: str


@dataclass(frozen=True, slots=True)
class Worked:
    """Two parts with a sign between them."""

    sign: str
    left: Expression
    right: Expression


Expression: TypeAlias = Number | ColumnName | Worked


def named_in(name: str) -> str:
    """A column's name as an expression has it.

    >>> named_in("Issued"), named_in("Cash in")
    ('Issued', '"Cash in"')
    """
    return name if _NAME.fullmatch(name) else f'"{name}"'


def is_expression(text: str, headings: Sequence[str]) -> bool:
    """Whether a text is no heading, and has signs that an amount is worked out with."""
    is_heading = text.strip().casefold() in {heading.strip().casefold() for heading in headings}
    return not is_heading and re.search(r"[-+*/()]", text) is not None


def parse_expression(text: str, headings: Sequence[str], source: str) -> Expression:
    """The expression that a text is; raises Mistake where it is none, or names no column.

    >>> parse_expression("quantity * (price - 1)", ["quantity", "price"], "t.csv").sign
    '*'
    """
    return _Parser(text, headings, source).whole()


def columns_in(expression: Expression) -> tuple[str, ...]:
    """The columns that an expression names, each once."""
    match expression:
        case ColumnName(name):
            return (name,)
        case Worked(_, left, right):
            return tuple(dict.fromkeys((*columns_in(left), *columns_in(right))))
    return ()


def adds_columns(expression: Expression) -> bool:
    """Whether columns are added up, or one taken from another: an empty cell counts as nothing then."""
    match expression:
        case Worked(sign, left, right):
            both = bool(columns_in(left)) and bool(columns_in(right))
            return (sign in "+-" and both) or adds_columns(left) or adds_columns(right)
    return False


def names_no_column() -> Mistake:
    """What is to be said of an expression of numbers alone."""
    quoted = "a heading that is a number is written in double quotes"
    return Mistake(f"{setting('amount')} names no column", f"Write it as quantity * price; {quoted}.")


def decimals_of_quotients(decimals: Iterable[int]) -> int:
    """To how many decimals a quotient of columns with so many decimals each is rounded."""
    return max(LEAST_DECIMALS, MORE_DECIMALS + max(decimals, default=0))


def worth(expression: Expression, figures: Mapping[str, Decimal | None]) -> Fraction | None:
    """What an expression is worth in a row with those figures; None where a cell that it needs is empty.

    Raises ZeroDivisionError.
    """
    match expression:
        case Number(text):
            return Fraction(text)
        case ColumnName(name):
            return None if (figure := figures[name]) is None else Fraction(figure)
    left, right = worth(expression.left, figures), worth(expression.right, figures)
    if expression.sign == "/" and right == 0:
        raise ZeroDivisionError
    if expression.sign in "+-" and columns_in(expression.left) and columns_in(expression.right):
        if left is None and right is None:
            return None
        # An empty cell counts as nothing beside one with a figure.
        left, right = left or Fraction(0), right or Fraction(0)
    return None if left is None or right is None else _SIGNS[expression.sign](left, right)


def has_quotient(expression: Expression) -> bool:
    """Whether anything is divided."""
    match expression:
        case Worked(sign, left, right):
            return sign == "/" or has_quotient(left) or has_quotient(right)
    return False


def worth_as_text(expression: Expression, worth: Fraction | None, decimals: int) -> str | None:
    """The figure of a row as a text: exact, a quotient rounded half even to so many decimals."""
    if worth is None:
        return None
    if has_quotient(expression):
        figure = rounded_ratio(worth, decimals, ROUND_HALF_EVEN).normalize(EXACT)
    else:
        figure = EXACT.divide(Decimal(worth.numerator), Decimal(worth.denominator))
    return f"{figure:f}"


class _Parser:
    """Reads a text from left to right: products before sums, brackets first."""

    def __init__(self, text: str, headings: Sequence[str], source: str) -> None:
        self.text, self.headings, self.source, self.at = text, headings, source, 0

    def whole(self) -> Expression:
        found = self._sum()
        if self._peek() is not None:
            raise self._wrong()
        return found

    def _sum(self) -> Expression:
        found = self._product()
        while (sign := self._sign("+-")) is not None:
            found = Worked(sign, found, self._product())
        return found

    def _product(self) -> Expression:
        found = self._part()
        while (sign := self._sign("*/")) is not None:
            found = Worked(sign, found, self._part())
        return found

    def _part(self) -> Expression:
        if self._sign("-"):
            return Worked("-", Number("0"), self._part())
        if self._sign("("):
            found = self._sum()
            if not self._sign(")"):
                raise self._wrong()
            return found
        token = self._peek()
        if token is None or token["sign"]:
            raise self._wrong()
        self.at = token.end()
        if token["number"]:
            return Number(token["number"])
        return ColumnName(found_column(token["quoted"] or token["name"], self.headings, self.source, "amount"))

    def _sign(self, signs: str) -> str | None:
        token = self._peek()
        if token is None or not token["sign"] or token["sign"] not in signs:
            return None
        self.at = token.end()
        return token["sign"]

    def _peek(self) -> re.Match[str] | None:
        if not self.text[self.at :].strip():
            return None
        token = _TOKEN.match(self.text, self.at)
        if token is None:
            raise self._wrong()
        return token

    def _wrong(self) -> Mistake:
        return Mistake(
            f"{setting('amount')} '{self.text}' cannot be read at '{self.text[self.at :].strip() or 'its end'}'",
            'Write it as quantity * price, with + - * / and brackets, and odd names in "quotes".',
        )
