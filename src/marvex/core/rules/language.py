"""How a rule is written, `Overspend [worse]: change > 5% and change > 10k`, and how it is read.

The grammar, in the order of the functions below:

    band       = name [ "[" tone [ "fails" ] "]" ] ":" ( condition | "otherwise" )
    condition  = term { "or" term } ;  term = factor { "and" factor }
    factor     = [ "not" ] ( comparison | "(" condition ")" )
    comparison = quantity ( "<" | "<=" | ">" | ">=" | "=" | "!=" ) ( value | quantity )
               | quantity "between" value "and" value
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from fractions import Fraction
from typing import NoReturn

from marvex.core.errors import Mistake, did_you_mean, listed
from marvex.core.exact import POWERS
from marvex.core.rules.bands import WHERE_MET, Band, Rule, Tone
from marvex.core.rules.conditions import (
    Between,
    Comparator,
    Condition,
    Either,
    Every,
    Not,
    Otherwise,
    Quantity,
    Relation,
    Value,
    ValueKind,
)
from marvex.core.values import dataclass

QUANTITIES = {quantity.value: quantity for quantity in Quantity}
ALSO = {"variance": "change"}  # what people type for a quantity
COMPARATORS = {comparator.value: comparator for comparator in Comparator}
MOST_NESTED = 50

# Signs that people write from other languages, each with the one that is meant.
_MEANT = {
    **{"==": "=", "<>": "!=", "≥": ">=", "≤": "<=", "≠": "!=", "=>": ">=", "=<": "<="},
    **{"&&": "and", "&": "and", "||": "or", "|": "or", "!": "not"},
}

_TOKEN = re.compile(
    r"(?P<number>\d+(?:\.\d+)?|\.\d+)"
    r"|(?P<word>[^\W\d]\w*)"
    r"|(?P<sign><>|==|=>|=<|<=|>=|!=|&&|\|\||[<>=()%,]|[-−]|\S)"
)


@dataclass(frozen=True, slots=True)
class _Token:
    text: str
    at: int
    kind: str  # number, word, sign or end


def parse_rule(lines: Sequence[str]) -> Rule:
    """The rule of these bands, in order.

    Raises Mistake with a caret under the mistake.

    >>> parse_rule(["Over [worse]: change >= 10%", "Fine [better]: otherwise"]).bands[0].text
    'change >= 10%'
    """
    bands: list[Band] = []
    for line in lines:
        band = parse_band(line)
        if bands and isinstance(bands[-1].condition, Otherwise):
            raise Mistake(
                f"the band '{band.name}' comes after '{bands[-1].name}: otherwise' and can never be met",
                "Put the band with 'otherwise' last.",
            )
        if any(band.name.casefold() == other.name.casefold() for other in (*bands, *WHERE_MET)):
            raise Mistake(f"the band name '{band.name}' is taken", "Give each band a name of its own.")
        bands.append(band)
    return Rule(tuple(bands))


def parse_band(line: str) -> Band:
    """One band; raises Mistake with a caret under the mistake."""
    return _BandParser(line).band()


class _BandParser:
    """Reads one line from left to right; `self.tokens[self.next]` is the token to be read."""

    def __init__(self, line: str) -> None:
        self.line = line
        self.tokens: list[_Token] = []
        self.next = 0
        self.depth = 0

    def band(self) -> Band:
        colon = self._colon()
        name, tone, fails = self._head(colon)
        start = colon + 1
        self._tokenize(start)
        text = " ".join(self.line[start:].split())
        if self._peek().text.casefold() == "otherwise":
            self._take()
            condition: Condition = Otherwise()
        else:
            condition = self._condition()
        if self._peek().kind != "end":
            self._fail(self._peek(), "expected 'and', 'or' or the end of the condition")
        return Band(name=name, tone=tone, condition=condition, text=text, fails=fails)

    def _colon(self) -> int:
        bracket = self.line.find("]")
        colon = self.line.find(":", max(bracket, 0))
        if colon < 0:
            self._fail_at(len(self.line), "expected ':' and a condition after the band's name")
        return colon

    def _head(self, colon: int) -> tuple[str, Tone, bool]:
        head = self.line[:colon]
        opening = head.find("[")
        name = (head if opening < 0 else head[:opening]).strip()
        if not name:
            self._fail_at(0, "expected the band's name before its tone and ':'")
        if opening < 0:
            return name, Tone.NEUTRAL, False
        closing = head.find("]", opening)
        if closing < 0:
            self._fail_at(colon, "expected ']' after the tone")
        if head[closing + 1 :].strip():
            self._fail_at(closing + 1, "expected ':' after the tone")
        return name, *self._tone(opening + 1, closing)

    def _tone(self, start: int, end: int) -> tuple[Tone, bool]:
        words = list(re.finditer(r"\S+", self.line[start:end]))
        tones = {tone.value: tone for tone in Tone if tone is not Tone.STANDING}
        if not words:
            self._fail_at(end, f"expected a tone: {listed(tones)}")
        first = words[0].group()
        if first.casefold() not in tones:
            hint = did_you_mean(first, tones, f"The tones are {listed(tones)}.")
            self._fail_at(start + words[0].start(), f"there is no tone '{first}'", hint)
        for word in words[1:]:
            if word.group().casefold() != "fails" or len(words) > 2:
                self._fail_at(start + word.start(), "expected 'fails' or ']' after the tone")
        return tones[first.casefold()], len(words) == 2

    def _tokenize(self, start: int) -> None:
        for found in _TOKEN.finditer(self.line, start):
            self.tokens.append(_Token(found.group(), found.start(), found.lastgroup or "sign"))
        self.tokens.append(_Token("", len(self.line.rstrip()), "end"))

    def _condition(self) -> Condition:
        parts = [self._term()]
        while self._skip_word("or"):
            parts.append(self._term())
        return parts[0] if len(parts) == 1 else Either(tuple(parts))

    def _term(self) -> Condition:
        parts = [self._factor()]
        while self._skip_word("and"):
            parts.append(self._factor())
        return parts[0] if len(parts) == 1 else Every(tuple(parts))

    def _factor(self) -> Condition:
        if self._skip_word("not"):
            return Not(self._inner())
        return self._inner()

    def _inner(self) -> Condition:
        if self._peek().text != "(":
            return self._comparison()
        opening = self._take()
        self.depth += 1
        if self.depth > MOST_NESTED:
            self._fail(opening, f"parentheses more than {MOST_NESTED} deep")
        inner = self._condition()
        if self._peek().text != ")":
            self._fail(self._peek(), "expected 'and', 'or' or ')'")
        self._take()
        self.depth -= 1
        return inner

    def _comparison(self) -> Condition:
        left = self._quantity()
        token = self._peek()
        if self._skip_word("between"):
            return self._between(left)
        if token.text not in COMPARATORS:
            self._fail(token, f"expected {listed(COMPARATORS)} or between")
        self._take()
        right = self._peek()
        if right.kind == "word":
            return Relation(left, COMPARATORS[token.text], self._other_quantity(left))
        return Relation(left, COMPARATORS[token.text], self._value(left))

    def _between(self, left: Quantity) -> Condition:
        start = self._peek()
        low = self._value(left)
        if not self._skip_word("and"):
            self._fail(self._peek(), "expected 'and' and the upper end")
        upper = self._peek()
        high = self._value(left)
        if high.unit is not low.unit:
            self._fail(upper, f"expected {low.unit.value}, as the lower end is")
        if high.number < low.number:
            self._fail(start, "the lower end is above the upper one")
        return Between(left, low, high)

    def _quantity(self) -> Quantity:
        token = self._peek()
        word = ALSO.get(token.text.casefold(), token.text.casefold())
        if token.kind != "word" or word not in QUANTITIES:
            what = f"expected one of {listed(QUANTITIES)}"
            self._fail(token, what, did_you_mean(token.text, QUANTITIES) if token.kind == "word" else "")
        self._take()
        return QUANTITIES[word]

    def _other_quantity(self, left: Quantity) -> Quantity:
        token = self._peek()
        right = self._quantity()
        if ValueKind.AMOUNT not in left.units or ValueKind.AMOUNT not in right.units:
            self._fail(token, f"{left.value} and {right.value} cannot be compared")
        return right

    def _value(self, quantity: Quantity) -> Value:
        start = self._peek()
        sign = 1
        if start.text in ("-", "−"):
            self._take()
            sign = -1
        token = self._peek()
        if token.kind != "number":
            self._fail(token, f"expected {' or '.join(unit.value for unit in quantity.units)}")
        number = sign * Fraction(self._take().text)
        value = self._with_unit(number, quantity)
        if value.unit not in quantity.units:
            self._fail(start, f"{quantity.value} is compared with {quantity.units[0].value}, not {value.unit.value}")
        return value

    def _with_unit(self, number: Fraction, quantity: Quantity) -> Value:
        token = self._peek()
        if token.text == "%":
            self._take()
            return Value(number / 100, ValueKind.PERCENT)
        if token.kind == "word" and token.text.casefold() in POWERS:
            self._take()
            return Value(number * 10 ** POWERS[token.text.casefold()], ValueKind.AMOUNT)
        if token.text == "," and self.tokens[self.next + 1].kind == "number":
            self._fail(token, "figures are written without separators: 10000 or 10k")
        return Value(number, ValueKind.COUNT if quantity.units == (ValueKind.COUNT,) else ValueKind.AMOUNT)

    def _peek(self) -> _Token:
        return self.tokens[self.next]

    def _take(self) -> _Token:
        token = self.tokens[self.next]
        self.next += 1
        return token

    def _skip_word(self, word: str) -> bool:
        if self._peek().text.casefold() != word:
            return False
        self.next += 1
        return True

    def _fail(self, token: _Token, expected: str, mend: str = "") -> NoReturn:
        found = "the end" if token.kind == "end" else f"'{token.text}'"
        if token.text in _MEANT:
            mend = f"Write '{_MEANT[token.text]}'."
        self._fail_at(token.at, f"{expected}, found {found}" if expected.startswith("expected") else expected, mend)

    def _fail_at(self, at: int, what: str, mend: str = "") -> NoReturn:
        shown, caret = _around(self.line, at)
        raise Mistake(f"in a rule, {what}", mend, place=(f"    {shown}", "    " + " " * caret + "^"))


def _around(line: str, at: int, width: int = 70) -> tuple[str, int]:
    """The part of a long line that holds the place, and the place within it."""
    flat = re.sub(r"\s", " ", line)
    if len(flat) <= width:
        return flat, at
    start = max(0, min(at - width // 2, len(flat) - width))
    return flat[start : start + width], at - start
