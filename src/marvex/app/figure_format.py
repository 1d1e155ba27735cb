"""How the figures of one call are written: its locale, its currency, and the unit that fits them."""

from __future__ import annotations

from collections.abc import Sequence

from babel.numbers import list_currencies

from marvex.core.compare.comparison import Comparison
from marvex.core.compare.point import Kind, Point
from marvex.core.errors import Mistake, setting
from marvex.core.words.units import FigureFormat, Signs, Unit, fitting_decimals, fitting_unit
from marvex.request.settings import Settings


def figure_format(
    comparisons: Sequence[Comparison], settings: Settings, *, are_percentages: bool = False
) -> FigureFormat:
    """The format of all figures of the comparisons, in the unit and decimals asked for, or fitting ones.

    Parameters
    ----------
    are_percentages : the source writes its amounts in per cent.
    """
    currency = _checked_currency(settings.currency)
    # Ratios are written in per cent and points, whatever the amounts are written in.
    shown = [point for one in comparisons for point in one.points if point.kind is not Kind.RATIO]
    wholes = [_wholes(one) for one in comparisons]
    points = [*shown, *(point for of_one in wholes for point in of_one)]
    amounts = [amount for point in points for amount in (point.current, point.base) if amount is not None]
    # A chained comparison shows no total.
    totals = [whole for one, of_one in zip(comparisons, wholes, strict=True) if one.has_total for whole in of_one]
    changes = [point.movement for point in (*shown, *totals)]
    fitting = Unit.PERCENT if are_percentages else fitting_unit(amounts, changes)
    unit = fitting if settings.units == "auto" else Unit(settings.units)
    decimals = settings.decimals
    if decimals is None:
        decimals = fitting_decimals(amounts, changes, unit)
        if all(point.base is None for point in points):
            decimals = max(decimals, fitting_decimals(amounts, (), unit))
    return FigureFormat(
        unit=unit, decimals=decimals, locale=settings.locale, signs=Signs(settings.signs), currency=currency
    )


def _wholes(comparison: Comparison) -> list[Point]:
    """The totals of a comparison and of its panels, but those of ratios."""
    return [one for one in (*comparison.panel_totals, comparison.total) if one.kind is not Kind.RATIO]


def _checked_currency(currency: str | None) -> str | None:
    if currency is None:
        return None
    if currency.upper() not in list_currencies():
        raise Mistake(f"{setting('currency')}: there is no currency '{currency}'", "Write its code, such as EUR.")
    return currency.upper()
