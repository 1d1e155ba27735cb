"""A rule as a formula of a spreadsheet: the band of a row from its own two sides, as the rule's conditions say."""

from __future__ import annotations

from decimal import Decimal

from marvex.core.compare.point import Better
from marvex.core.rules.bands import UNCLASSIFIED, Rule
from marvex.core.rules.conditions import (
    Between,
    Comparator,
    Condition,
    Either,
    Every,
    Not,
    Quantity,
    Relation,
    Value,
    ValueKind,
)
from marvex.core.values import dataclass

# What a row's own cells can tell; the others need all points, or earlier ones.
SAYABLE = (Quantity.CURRENT, Quantity.BASE, Quantity.CHANGE, Quantity.FAVOURABLE, Quantity.ADVERSE)
DIGITS = 9  # to which amounts are compared, since a spreadsheet's numbers are binary


@dataclass(frozen=True, slots=True, kw_only=True)
class RowOfSheet:
    """The cells of a row's two sides, and how it is judged."""

    now: str
    then: str
    better: Better
    is_ratio: bool = False


def can_be_said(rule: Rule) -> bool:
    """Whether every condition asks only what a row's own cells can tell."""
    asked = [one for band in rule.bands if band.condition for one in band.condition.comparisons()]
    quantities = {one.left for one in asked} | {
        one.right for one in asked if isinstance(one, Relation) and isinstance(one.right, Quantity)
    }
    return quantities <= set(SAYABLE)


def band_formula(rule: Rule, row: RowOfSheet) -> str:
    """The formula that gives the name of the first band that holds.

    >>> from marvex.core.rules.language import parse_rule
    >>> rule = parse_rule(["Over [worse]: change > 10k", "Within: otherwise"])
    >>> band_formula(rule, RowOfSheet(now="B5", then="C5", better=Better.UP))
    '=IF(ROUND(B5-C5,9)>10000,"Over",IF(TRUE,"Within","Unclassified"))'
    """
    formula = _text(UNCLASSIFIED.name)
    for band in reversed(rule.bands):
        if band.condition is not None:
            formula = f"IF({_condition(band.condition, row)},{_text(band.name)},{formula})"
    return f"={formula}"


def _condition(condition: Condition, row: RowOfSheet) -> str:
    match condition:
        case Relation(left, comparator, right):
            return _relation(left, comparator, right, row)
        case Between(left, low, high):
            ends = (_relation(left, Comparator.AT_LEAST, low, row), _relation(left, Comparator.AT_MOST, high, row))
            return f"AND({','.join(ends)})"
        case Not(inner):
            return f"NOT({_condition(inner, row)})"
        case Every(parts):
            return f"AND({','.join(_condition(part, row) for part in parts)})"
        case Either(parts):
            return f"OR({','.join(_condition(part, row) for part in parts)})"
    return "TRUE"


def _relation(left: Quantity, comparator: Comparator, right: Value | Quantity, row: RowOfSheet) -> str:
    if isinstance(right, Quantity):
        unit, other = ValueKind.AMOUNT, _quantity(right, ValueKind.AMOUNT, row)
    else:
        unit, other = right.unit, _number(right)
        if row.is_ratio and not right.number and unit is ValueKind.AMOUNT:
            unit = ValueKind.PERCENT
    if row.is_ratio and unit is ValueKind.AMOUNT and left not in (Quantity.CURRENT, Quantity.BASE):
        return "FALSE"
    sign = "<>" if comparator is Comparator.UNEQUAL else comparator.value
    return f"{_quantity(left, unit, row)}{sign}{other}"


def _quantity(quantity: Quantity, unit: ValueKind, row: RowOfSheet) -> str:
    now, then = row.now, row.then
    if quantity in (Quantity.CURRENT, Quantity.BASE):
        return f"ROUND({now if quantity is Quantity.CURRENT else then},{DIGITS})"
    change = f"ROUND({now}-{then},{DIGITS})"
    if unit is ValueKind.PERCENT and not row.is_ratio:
        # Of nothing it is beyond every percentage, with the sign of the change.
        change = f"IF({then}=0,SIGN({now}-{then})*1E+99,ROUND(({now}-{then})/ABS({then}),12))"
    if quantity is Quantity.CHANGE:
        return change
    is_upwards = (row.better is Better.UP) == (quantity is Quantity.FAVOURABLE)
    return f"MAX(0,{change})" if is_upwards else f"MAX(0,-{change})"


def _number(value: Value) -> str:
    return f"{Decimal(value.number.numerator) / Decimal(value.number.denominator):f}"


def _text(name: str) -> str:
    return '"' + name.replace('"', '""') + '"'
