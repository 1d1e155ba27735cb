"""Lines of a table that are none of its amounts: counts that no total holds, and checks that come to nothing."""

from __future__ import annotations

import re
from collections.abc import Sequence
from decimal import Decimal

from marvex.core.structure.cost_names import counts_or_rates
from marvex.core.structure.structure_found import Structure
from marvex.core.words.spelled_out import spelled_out

_CHECK = re.compile(
    r"(?:(?:cross|balance|control|sum|rounding|total) ?)?check(?: ?(?:sum|figure|row|line|total|digit))?|control|proof|"
    r"out of balance|kontrolle|prüfsumme|prüfung|contrôle|control de suma|controllo",
    re.IGNORECASE,
)
_DIFFERENCE = re.compile(r"differences?|differenz(?:en)?|différences?|diferencias?", re.IGNORECASE)
_RATE = re.compile(
    r".*\bper (?!cent\b|annum\b|diem\b).*|(?:basic |diluted )?e\.?p\.?s\.?|(?:.* )?days(?: (?:in|of) .*)?|"
    r"(?:.* )?(?:tax|interest|growth|churn|load|exchange|fx|occupancy) (?:rate|factor)|(?:average|avg\.?|mean) .*",
    re.IGNORECASE,
)  # of a line that no total holds
_COUNTED = re.compile(  # which may be amounts in a total, but hardly outside all
    r"(?:.* )?(?:vehicles|cars|coaches|lorries|motorcycles|bicycles|pax|crossings|calls|employees|members|subscribers|"
    r"users|visitors|guests|rooms|sites|stores|vessels)(?: (?:carried|sold|handled|made|served|at .*))?",
    re.IGNORECASE,
)
_BESIDE = re.compile(
    r"\s*(?:\(.*\)|[:=?].*|[-–—] .*|\b(?:(?:should|must) be|vs\.?|against|to|with|on) .*)$", re.IGNORECASE
)


def may_be_apart(label: str) -> bool:
    """Whether a line beside amounts of money may be none by its name: a count, a rate, a check.

    >>> [may_be_apart(one) for one in ("Passengers", "Vehicles carried", "Check (should be 0)", "Passenger fares")]
    [True, True, True, False]
    >>> [may_be_apart(one) for one in ("Earnings per share", "Days in year", "Average fare", "Fuel", "Per diem costs")]
    [True, True, True, False, False]
    """
    name = spelled_out(label).strip()
    is_said = _RATE.fullmatch(name) is not None or _COUNTED.fullmatch(name) is not None
    return is_called_check(label) or is_said or bool(counts_or_rates([label], beside_money=True))


def of_no_total(structure: Structure) -> list[int]:
    """The lines that no total and no ratio is made of, where there is a total."""
    held = {place for one in structure.sums for place in one.places}
    held |= {place for one in structure.ratios for place in (one.over, one.under)}
    return [place for place in structure.leaves if place not in held] if structure.totals else []


def is_check(label: str, figures: Sequence[Decimal | None]) -> bool:
    """Whether a line says that others agree, by its name and by coming to nothing in each column.

    >>> is_check("Check (should be 0)", [Decimal(0), None]), is_check("Check", [Decimal(2)])
    (True, False)
    """
    is_called = is_called_check(label) or _DIFFERENCE.fullmatch(spelled_out(label).strip()) is not None
    return is_called and not any(figures)


def is_called_check(label: str) -> bool:
    """Whether a line says by its name that others agree."""
    return _CHECK.fullmatch(_BESIDE.sub("", spelled_out(label).strip())) is not None
