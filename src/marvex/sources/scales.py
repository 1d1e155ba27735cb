"""The unit of a source's figures, as its headings say it: "EUR '000", "in millions", "T€"."""

from __future__ import annotations

import re
from collections.abc import Iterable

_CURRENCY = r"(?:[A-Z]{3}|[€$£¥₹])"
# Words of money, behind which a single letter is a unit and not metres.
_MONEY = (
    r"(?i:revenues?|sales|turnover|income|profit|margin|costs?|spend|expenses?|budget|actual|forecast|amount|net|"
    r"gross|value|fees|cash|debt|ebitda?|fares)"
)
_WORDS = {
    3: (
        rf"['’´`]\s?000s?|\b000s\b|\bin thousands\b|\bthousands of\b|\b{_CURRENCY}\s?k\b|(?<![A-Za-z])[€$£]\s?k\b|"
        rf"\bk\s?{_CURRENCY}|\bT(?:EUR|€)|\bTsd\.?(?=\W|$)|\bin Tausend\b|\ben milliers\b|\ben miles\b|\bin migliaia\b|"
        rf"\b{_MONEY}[ _](?:k|\(k\))$"
    ),
    6: (
        rf"\bin millions\b|\bmillions of\b|\b{_CURRENCY}\s?(?:m|mn|mio)\b|(?<![A-Za-z])[€$£]\s?mn?\b|\bMio\.?(?=\W|$)|"
        rf"\bM€|\ben millions\b|\ben millones\b|\bin milioni\b|\b{_CURRENCY}\s?million\b|"
        rf"\b{_MONEY}[ _](?:mn?|\(mn?\))$"
    ),
    9: rf"\bin billions\b|\b{_CURRENCY}\s?bn\b|(?<![A-Za-z])[€$£]\s?bn\b|\bMrd\.?(?=\W|$)|"
    rf"\b{_MONEY}[ _](?:bn|\(bn\))$",
}


def power_said(texts: Iterable[str]) -> int | None:
    """The power of ten that headings or titles say; None where they say none, or several.

    >>> [power_said([text]) for text in ("EUR '000", "Revenue (£m)", "in thousands", "Sales", "Km", "Revenue m")]
    [3, 6, 3, None, None, 6]
    """
    found = {power for text in texts for power, words in _WORDS.items() if re.search(words, text)}
    return found.pop() if len(found) == 1 else None


def without_unit(heading: str) -> str:
    """A heading without its unit and its currency; empty where it says nothing else.

    >>> [without_unit(one) for one in ("Revenue (£m)", "Sales in thousands", "EUR '000", "Revenue m", "Net EUR")]
    ['Revenue', 'Sales', '', 'Revenue', 'Net']
    """
    for words in _WORDS.values():
        found = re.search(words, heading)
        if found:
            # Behind a word of money only the letter is the unit.
            word = re.match(rf"{_MONEY}[ _]", found[0])
            heading = heading[: found.start() + (word.end() if word else 0)] + heading[found.end() :]
    heading = re.sub(rf"[\s(\[,]*{_CURRENCY}[\s)\]]*$", "", heading) if len(heading) > len("EUR") else heading
    return re.sub(r"\(\s*\)|\[\s*\]", "", heading).strip(" ,;:-–_([")
