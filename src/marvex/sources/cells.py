"""How a figure is read, as an expression of SQL and, for samples, by the same patterns in Python.

Two readings stand side by side. The plain one is fast and right for `-1234.50`; the full one takes
every form that people write, `(1,234.50)`, `1.234,5-`, `EUR 1.2k`, in the column's own convention,
and is asked only where a column holds what the plain one does not read or might misread.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from decimal import Decimal
from enum import Enum
from functools import cache
from itertools import groupby

from marvex.core.errors import Mistake, setting
from marvex.core.exact import EXACT, POWERS
from marvex.core.values import dataclass
from marvex.sources.currencies import CURRENCIES

MOST_DIGITS = 38
BINARY_DIGITS = 15  # significant ones of a binary figure that a spreadsheet shows
NARROW_DIGITS = 18  # DuckDB adds up decimals of so many digits in one machine word

_THIN = " \u00a0\u202f\u2009'’"  # what stands between thousands besides a point or a comma
_SYMBOL = "€$£¥₹₩₽₺"
# By their first letters, which makes a pattern of half the work.
_CODES = "|".join(
    f"{first}(?:{'|'.join(code[1:] for code in codes)})"
    for first, codes in groupby(sorted(CURRENCIES), lambda code: code[0])
)
_CURRENCY = rf"(?:{_CODES}|[{_SYMBOL}])"
_GAP = "[ \u00a0\u202f]*"
_EXPONENT = r"(?:[eE][-+]?[0-9]{1,2})?"

_LAKHS = r"[0-9]{1,2}(?:,[0-9]{2})+,[0-9]{3}(?:\.[0-9]+)?"  # 12,34,567
_POINT = rf"(?:[0-9]{{1,3}}(?:[,{_THIN}][0-9]{{3}})+(?:\.[0-9]+)?|{_LAKHS}|[0-9]+(?:\.[0-9]*)?|\.[0-9]+)"
_COMMA = rf"(?:[0-9]{{1,3}}(?:[.{_THIN}][0-9]{{3}})+(?:,[0-9]+)?|[0-9]+(?:,[0-9]*)?|,[0-9]+)"

_PLAIN_FIGURE = rf"[-+]?(?:[0-9]+\.?[0-9]*|\.[0-9]+){_EXPONENT}"
# 1.234 and 1,234 are a thousand in one convention and a bit more than one in the other.
_AMBIGUOUS = r"[^0-9]*[1-9][0-9]{0,2}[.,][0-9]{3}[^0-9.,]*"
ABSENT = (
    *("", "-", "–", "—", "n/a", "na", "#n/a", "n.a.", "null", "nil", "."),
    *("$-", "$ -", "€-", "€ -", "£-", "£ -", "- €"),  # as formats for accounts write nothing
)
_MINUS = "-−–\u2011\u2012"


def _around(digits: str) -> str:
    """The digits with the signs, currencies and letters that may stand about them."""
    sign, unit, behind = f"[{_MINUS}+]", rf"{_GAP}(?:%|bn|[kKmM])?{_GAP}", rf"(?:-|CR|DR|Cr|Dr)?{_GAP}"
    # One sign at most before the digits, and one currency before or behind them.
    plain = rf"{_GAP}(?:{sign}{_GAP})?{digits}{unit}(?:{_CURRENCY}{_GAP})?{behind}"
    money = rf"{_GAP}(?:{sign}{_GAP}{_CURRENCY}|{_CURRENCY}{_GAP}{sign}?){_GAP}{digits}{unit}{behind}"
    beside = rf"{_CURRENCY}{_GAP}\({_GAP}{digits}{unit}\){_GAP}|\({_GAP}{digits}{unit}\){_GAP}{_CURRENCY}{_GAP}"
    return rf"(?:{plain}|{money}|{_GAP}\({plain}\){_GAP}|{_GAP}\({money}\){_GAP}|{_GAP}(?:{beside}))"


class Convention(Enum):
    """Which sign stands before the decimals."""

    POINT = "point"
    COMMA = "comma"

    @property
    def pattern(self) -> str:
        digits = _POINT if self is Convention.POINT else _COMMA
        return rf"(?:{_around(digits)}|{_GAP}{_PLAIN_FIGURE}{_GAP})" if self is Convention.POINT else _around(digits)


_SIMPLE = re.compile(r"-?[0-9]+(\.[0-9]+)?")
_PLAIN = re.compile(_PLAIN_FIGURE)
_PLAIN_WITH_COMMA = re.compile(r"[-+]?(?:[0-9]+|[0-9]{1,3}\.[0-9]{3})")  # of those, what could be of a comma too
# Of letters only a currency stands before the digits, and no dash, stroke or colon between them.
_BEGINNING = re.compile(r"[^0-9A-Za-z]*(?:[A-Z]{3}[^0-9A-Za-z]*)?[0-9]")
_NO_FIGURE = re.compile(
    r"[0-9][-/:][0-9]|^[^0-9A-Za-z]*(?:YTD|QTD|MTD|ITD|LTM|TTM|NTM|YOY|JAN|FEB|MAR|APR|MAY|JUN|JUL|AUG|SEP|OCT|NOV|DEC)(?![A-Za-z])"
)


def is_figure(text: str) -> bool:
    """Whether a cell of a sample is a figure in any of the accepted forms."""
    text = text.strip()
    return _PLAIN.fullmatch(text) is not None or (
        _NO_FIGURE.search(text) is None and any(_is_of(convention, text) for convention in Convention)
    )


def _is_of(convention: Convention, text: str) -> bool:
    """Whether a text is a figure in a convention.

    The pattern of all forms takes a tenth of a small table in the making, and nearly all cells do without it.
    """
    if _PLAIN.fullmatch(text):
        return convention is Convention.POINT or _PLAIN_WITH_COMMA.fullmatch(text) is not None
    return _BEGINNING.match(text) is not None and _compiled(convention).fullmatch(text) is not None


@cache
def _compiled(convention: Convention) -> re.Pattern[str]:
    return re.compile(convention.pattern)


def is_absent(text: str) -> bool:
    """Whether a cell says that there is nothing: blank, a dash, n/a."""
    return text.strip().lower() in ABSENT


def value_of(text: str, convention: Convention) -> Decimal | None:
    """The value of one cell of a sheet, as the engine reads it; None where it is absent or no figure."""
    text = text.strip()
    if convention is Convention.POINT and _SIMPLE.fullmatch(text):
        return Decimal(text)
    if not _is_of(convention, text):
        return None
    mantissa, exponent = re.fullmatch(r"(.*?[0-9.])(?:[eE]([-+]?[0-9]+))?([^0-9]*)", text).group(1, 2)  # type: ignore[union-attr]
    digits = re.sub(r"[^0-9.,]", "", mantissa)
    digits = digits.replace(",", "") if convention is Convention.POINT else digits.replace(".", "").replace(",", ".")
    letter = re.search(r"[0-9.,]\s*(%|bn|[kKmM])", text)
    power = {"%": -2, **POWERS}[letter[1].lower()] if letter else 0
    value = EXACT.scaleb(Decimal(digits), power + int(exponent or 0))
    return -value if re.search(rf"\(|^[^0-9]*[{_MINUS}]|-\s*$|C[Rr]\s*\)?\s*$", text) else value


def could_be_thousands(text: str) -> bool:
    """Whether a figure means one thing with a decimal point and another with a decimal comma."""
    return re.fullmatch(_AMBIGUOUS, text.strip()) is not None


@dataclass(frozen=True, slots=True)
class FigureReading:
    """How amounts are read: with how many decimals, in how wide a type, in which convention.

    Without a convention the plain reading is used.
    """

    decimals: int
    is_wide: bool = False
    convention: Convention | None = None

    @property
    def type(self) -> str:
        return f"DECIMAL({MOST_DIGITS if self.is_wide else NARROW_DIGITS}, {self.decimals})"

    def amount(self, text: str) -> str:
        """The expression's text as a decimal; NULL where it is absent or no figure."""
        if self.convention is None:
            return f"TRY_CAST({text} AS {self.type})"
        number = f"TRY_CAST({self._digits(text)} AS {self.type})"
        # The factor is applied in the widest type, and only where there is one.
        scaled = f"CAST({number} * {_factor(text)} AS {self.type})"
        signed = f"CASE WHEN {_is_negative(text)} THEN -({scaled}) ELSE {scaled} END"
        return (
            f"CASE WHEN regexp_full_match({text}, {_quoted(_GAP + _PLAIN_FIGURE + _GAP)}) AND {self._point()} "
            f"THEN TRY_CAST({text} AS {self.type}) "
            f"WHEN {matches(text, self.convention)} THEN {signed} END"
        )

    def decimals_in(self, text: str) -> str:
        """How many decimals a figure needs, those of its exponent or percent sign included."""
        if self.convention is None:
            point = f"strpos({text}, '.')"
            return f"CASE WHEN {point} > 0 THEN length(rtrim({text})) - {point} ELSE 0 END"
        digits = self._digits(text)
        mantissa = f"length(regexp_extract({digits}, '\\.([0-9]*)', 1))"
        exponent = f"coalesce(TRY_CAST(regexp_extract({text}, '[0-9.][eE]([-+]?[0-9]+)', 1) AS INTEGER), 0)"
        percent = f"CASE WHEN contains({text}, '%') THEN 2 ELSE 0 END"
        needed = f"greatest({mantissa} - {exponent} + {percent}, 0)"
        return f"CASE WHEN {matches(text, self.convention)} THEN {needed} ELSE 0 END"

    def _digits(self, text: str) -> str:
        """The digits alone, with a point before the decimals."""
        mantissa = f"regexp_replace({text}, '[eE][-+]?[0-9]+', '')"
        kept = f"regexp_replace({mantissa}, '[^0-9.,]', '', 'g')"
        if self.convention is Convention.COMMA:
            return f"replace(replace({kept}, '.', ''), ',', '.')"
        return f"replace({kept}, ',', '')"

    def _point(self) -> str:
        return "true" if self.convention is Convention.POINT else "false"


def matches(text: str, convention: Convention) -> str:
    """Whether the text is a figure in that convention."""
    return f"regexp_full_match({text}, {_quoted(convention.pattern)})"


def currency_in(text: str) -> str:
    """The currency that stands beside a figure, empty where there is none."""
    return f"regexp_extract({text}, '{_CURRENCY}')"


def might_be_misread(text: str) -> str:
    """Whether the plain reading could take the text wrongly: exponents, digit separators of code."""
    return f"(contains({text}, 'e') OR contains({text}, 'E') OR contains({text}, '_'))"


def is_ambiguous(text: str) -> str:
    """Whether the text means one thing with a decimal point and another with a decimal comma."""
    return f"regexp_full_match({text}, {_quoted(_AMBIGUOUS)})"


def convention_counts(text: str) -> str:
    """How many texts are figures in one convention only, how many could be thousands with a comma and with a point,
    and how many are whole without a sign between: below a thousand, and above."""
    point, comma = (matches(text, one) for one in Convention)
    asked = (
        f"{point} AND NOT {comma}",
        f"{comma} AND NOT {point}",
        f"{is_ambiguous(text)} AND contains({text}, ',')",
        f"{is_ambiguous(text)} AND contains({text}, '.')",
        f"regexp_full_match({text}, '[-+(]?[0-9]{{1,3}}[)]?')",
        f"regexp_full_match({text}, '[-+(]?[0-9]{{4,}}[)]?')",
    )
    return ", ".join(f"count(*) FILTER ({one} AND NOT {is_nothing(text)})" for one in asked)


def convention_told(counts: Sequence[int]) -> Convention | None:
    """The convention that a whole column shows, as `convention_counts` has it; None where it shows neither."""
    point, comma, with_comma, with_point, small, large = counts
    if point != comma:
        return Convention.COMMA if comma > point else Convention.POINT
    if with_comma and not with_point and small and not large:
        return Convention.POINT  # 1,234 beside 567: the comma comes with the thousands
    return None if with_comma or with_point else Convention.POINT


def convention_shown(texts: Iterable[str]) -> Convention | None:
    """The one convention that some of the figures among texts can only be read in; None where none shows it, or both.

    >>> convention_shown(["1,234", "1,234,567"]), convention_shown(["1,234", "Fuel"]), convention_shown(["1,2", "1.2"])
    (<Convention.POINT: 'point'>, None, None)
    """
    found = set()
    for text in texts:
        if ("." in text or "," in text) and not _NO_FIGURE.search(text):
            ways = [way for way in Convention if _is_of(way, text.strip())]
            found |= set(ways) if len(ways) == 1 else set()
    return found.pop() if len(found) == 1 else None


def typed_figures(figures: Sequence[str], texts: Iterable[str], numbers: str) -> list[str]:
    """The figures of cells that hold figures, and no texts, written so that the convention of a column fits them.

    Parameters
    ----------
    figures : with a decimal point.
    texts : the other cells of the column.
    numbers : the convention that is asked for, or `auto`.

    >>> typed_figures(["12", "37.623", "1.250"], [], "auto")  # which could be thousands, but for one zero more
    ['12', '37.6230', '1.250']
    >>> typed_figures(["37.623", "0.5"], ["Net", "1.234,50"], "auto")
    ['37,623', '0,5']
    """
    found = list(figures)
    places = [place for place, text in enumerate(found) if "." in text]
    if not places:
        return found
    told = convention_shown(texts) if numbers == "auto" else Convention(numbers)
    if told is Convention.COMMA:
        found = [text.replace(".", ",") for text in found]
    if all(could_be_thousands(found[place]) for place in places):
        found[places[0]] += "0"
    return found


def unclear_convention(where: str, example: str) -> Mistake:
    """What is to be said of figures that have a decimal point or a decimal comma, and show neither."""
    return Mistake(
        f"{where}: '{example}' and all others could have a decimal point or a decimal comma",
        f"Say which with {setting('numbers', 'point')} or {setting('numbers', 'comma')}.",
    )


def is_nothing(text: str) -> str:
    """Whether the text says that there is nothing: blank, a dash, n/a."""
    return f"({text} IS NULL OR lower(trim({text})) IN ({', '.join(_quoted(one) for one in ABSENT)}))"


def name(text: str) -> str:
    """The text as a category's name: trimmed, empty where there is none."""
    return f"coalesce(trim({text}), '')"


def _factor(text: str) -> str:
    letter = f"lower(regexp_extract({text}, '[0-9.,]\\s*(%|bn|k|K|m|M)', 1))"
    wide = f"DECIMAL({MOST_DIGITS - NARROW_DIGITS}, 2)"
    return (
        f"CAST(CASE {letter} WHEN '%' THEN 0.01 WHEN 'k' THEN 1000 WHEN 'm' THEN 1000000 "
        f"WHEN 'bn' THEN 1000000000 ELSE 1 END AS {wide})"
    )


def _is_negative(text: str) -> str:
    return f"regexp_matches({text}, '\\(|[{_MINUS}]|C[Rr]\\s*\\)?\\s*$')"


def _quoted(pattern: str) -> str:
    return "'" + pattern.replace("'", "''") + "'"
