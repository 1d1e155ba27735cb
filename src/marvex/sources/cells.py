"""How one cell is read: a figure, a date, a name, each as an expression of SQL.

Two readings of a figure stand side by side. The plain one is fast and right for `-1234.50`;
the strict one is asked only where a column holds what the plain one might misread.
"""

from __future__ import annotations

from dataclasses import dataclass

MOST_DIGITS = 38
NARROW_DIGITS = 18  # DuckDB adds up decimals of so many digits in one machine word

_FIGURE = r"[-+]?([0-9]+\.?[0-9]*|\.[0-9]+)([eE][-+]?[0-9]{1,2})?"


@dataclass(frozen=True, slots=True)
class FigureReading:
    """How amounts are read: with how many decimals, in how wide a type, by which reading."""

    decimals: int
    is_wide: bool = False
    is_strict: bool = False

    @property
    def type(self) -> str:
        return f"DECIMAL({MOST_DIGITS if self.is_wide else NARROW_DIGITS}, {self.decimals})"

    def amount(self, text: str) -> str:
        """The expression's text as a decimal; NULL where it is blank or no figure."""
        plain = f"TRY_CAST({text} AS {self.type})"
        if not self.is_strict:
            return plain
        return f"CASE WHEN {is_figure(text)} THEN {plain} END"

    def decimals_in(self, text: str) -> str:
        """How many decimals a figure is written with."""
        point = f"strpos({text}, '.')"
        written = f"CASE WHEN {point} > 0 THEN length(rtrim({text})) - {point} ELSE 0 END"
        if not self.is_strict:
            return written
        mantissa = f"length(regexp_extract({text}, '\\.([0-9]*)', 1))"
        exponent = f"coalesce(TRY_CAST(regexp_extract({text}, '[eE]([-+]?[0-9]+)', 1) AS INTEGER), 0)"
        return f"CASE WHEN {is_figure(text)} THEN greatest({mantissa} - {exponent}, 0) ELSE 0 END"


def is_figure(text: str) -> str:
    """Whether the text is a figure, strictly."""
    return f"regexp_full_match(trim({text}), '{_FIGURE}')"


def might_be_misread(text: str) -> str:
    """Whether the plain reading could take the text wrongly: exponents, digit separators of code."""
    return f"(contains({text}, 'e') OR contains({text}, 'E') OR contains({text}, '_'))"


def is_blank(text: str) -> str:
    return f"({text} IS NULL OR trim({text}) = '')"


def day(text: str) -> str:
    """The text as a day: ISO dates and times, `2026-10` as its first day, `2026` as 1 January."""
    stripped = f"trim({text})"
    return (
        f"CASE WHEN regexp_full_match({stripped}, '\\d{{4}}-\\d\\d-\\d\\d([T ].*)?') "
        f"THEN TRY_CAST(left({stripped}, 10) AS DATE) "
        f"WHEN regexp_full_match({stripped}, '\\d{{4}}-\\d\\d') THEN TRY_CAST({stripped} || '-01' AS DATE) "
        f"WHEN regexp_full_match({stripped}, '[12]\\d{{3}}') THEN TRY_CAST({stripped} || '-01-01' AS DATE) END"
    )


def name(text: str) -> str:
    """The text as a category's name: trimmed, empty where there is none."""
    return f"coalesce(trim({text}), '')"
