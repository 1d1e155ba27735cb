"""The unit of a source's figures, as its headings say it: "EUR '000", "in millions", "T€"."""

from __future__ import annotations

import re
from collections.abc import Iterable

_CURRENCY = r"(?:[A-Z]{3}|[€$£¥₹])"
_WORDS = {
    3: (
        rf"['’´`]\s?000s?|\b000s\b|\bin thousands\b|\bthousands of\b|\b{_CURRENCY}\s?k\b|(?<![A-Za-z])[€$£]\s?k\b|"
        rf"\bk\s?{_CURRENCY}|\bT(?:EUR|€)|\bTsd\.?(?=\W|$)|\bin Tausend\b|\ben milliers\b|\ben miles\b|\bin migliaia\b"
    ),
    6: (
        rf"\bin millions\b|\bmillions of\b|\b{_CURRENCY}\s?(?:m|mn|mio)\b|(?<![A-Za-z])[€$£]\s?mn?\b|\bMio\.?(?=\W|$)|"
        rf"\bM€|\ben millions\b|\ben millones\b|\bin milioni\b|\b{_CURRENCY}\s?million\b"
    ),
    9: rf"\bin billions\b|\b{_CURRENCY}\s?bn\b|(?<![A-Za-z])[€$£]\s?bn\b|\bMrd\.?(?=\W|$)",
}


def power_said(texts: Iterable[str]) -> int | None:
    """The power of ten that headings or titles say; None where they say none, or several.

    >>> [power_said([text]) for text in ("EUR '000", "Revenue (£m)", "in thousands", "Sales", "Km")]
    [3, 6, 3, None, None]
    """
    found = {power for text in texts for power, words in _WORDS.items() if re.search(words, text)}
    return found.pop() if len(found) == 1 else None
