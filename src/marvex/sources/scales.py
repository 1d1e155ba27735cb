"""The unit of a source's figures, as its headings say it: "EUR '000", "in millions", "T€"."""

from __future__ import annotations

import re
from collections.abc import Iterable

from marvex.core.exact import POWERS
from marvex.sources.currencies import CURRENCIES, USUAL

_CURRENCY = r"(?:[A-Z]{3}|[€$£¥₹])"
# Of which an `M` behind it is millions: `ITEM` and `TEAM` are words, and a ship's `LOA m` is metres.
_KNOWN = rf"(?:{'|'.join(sorted(CURRENCIES - {'ALL', 'CUP', 'MOP', 'PEN', 'SOS', 'TOP'}))}|[€$£¥₹])"
_UNIT_WORDS = {"k": "thousands", "m": "millions", "bn": "billions"}
_CODES = {"€": "EUR", "£": "GBP", "¥": "JPY", "₹": "INR", "$": "$", "US$": "USD", "Fr.": "CHF"}
# Words of money, behind which a single letter is a unit and not metres.
_MONEY = (
    r"(?i:revenues?|sales|turnover|income|profit|margin|costs?|spend|expenses?|budget|actual|forecast|amount|net|"
    r"gross|value|fees|cash|debt|ebitda?|fares)"
)
_COINS = r"(?i:euros?|pounds?|dollars?|francs?|kron(?:a|or|er|ur)|reais|rand|rupees|pesos|eur|usd|gbp|chf)"
_BEFORE = r"(?:(?<!\w)(?:[A-Z]{3}|kr\.?)|[€$£¥₹])\s?"
_NAMED = r"(?:EUR|USD|GBP|CHF|SEK|NOK|DKK|ISK|PLN|CZK|HUF|RON|AUD|NZD|CAD|JPY|CNY|HKD|SGD|INR|ZAR|BRL|MXN)\b"
_THINGS = rf"(?:t|kg|tonnes?|litres?|units?|passengers?|{_COINS})"
_WORDS = {
    3: (
        rf"['’´`]\s?000s?|\b000['’]?s\b|(?<!\w)(?:[A-Z]{{3}}\s|[€$£¥₹]\s?)000s?\b|"
        rf"(?i:\bin thousands?\b|\bthousands of\b|\b(?:units?|scale|amounts): ?(?:thousands|1[,.]?000)\b|^thousands?$)|"
        rf"{_BEFORE}[Tt]housands?\b|(?<!per )\b[Tt]housands? {_THINGS}\b|\b{_CURRENCY}\s1[,.]000\b|"
        rf"[(\[]\s*[Tt]housands?\s*[)\]]|\b{_CURRENCY}\s?k\b|(?<![A-Za-z])[€$£]\s?k\b|\bk\s?{_CURRENCY}|"
        rf"\bT(?:EUR|€)|\bTsd\.?(?=\W|$)|(?i:\bin tausend\b|\ben milliers\b|\bin migliaia\b)|"
        rf"(?i:\b(?:en )?miles de (?=€|{_COINS}))|"
        rf"\b[Tt][Kk]r\b|(?<!\w)(?:[x×*]|in) ?1[,.]?000(?:s|\b)|(?<![\w.,])1?000 {_THINGS}\b|"
        rf"\b{_MONEY}[ _](?:k|\(k\))$|\b[Kk]\s?(?:[€$£]|{_NAMED})|(?<![A-Za-z])[€$£]\s?K\b|\b[Kk][Kk]r\b|"
        rf"\b{_NAMED}\s?\([Kk]\)|(?:^|\b(?:19|20)\d\d )(?:in )?{_NAMED}\s?1000$|^000$|\b(?:19|20)\d\d [Tt]housands$"
    ),
    6: (
        rf"(?i:\bin millions?\b|\bmillions of\b|\b(?:units?|scale|amounts): ?millions\b|^millions?$)|"
        rf"\b{_CURRENCY}\s?(?:mn|mio)\b|\b{_KNOWN}\s?(?:mm?|MM?)\b|(?<![A-Za-z])[€$£]\s?['’]?(?:mn?|MM?|mm)\b|"
        rf"\bMio\.?(?=\W|$)|\bM€|\bm\s?(?:[€$£]|EUR|USD|GBP)|(?i:\ben millions\b|\bmillones de\b|\bin milioni\b)|"
        rf"{_BEFORE}[Mm]illions?\b|(?<!per )\b[Mm]illions? {_THINGS}\b|\b[Mm](?:n|ill)?\.?[Kk]r\b|"
        rf"[(\[]\s*[Mm]illions?\s*[)\]]|\b{_MONEY}[ _](?:mn?|\(mn?\))$|\bM\s?{_NAMED}|\bMM\s?[€$£]|"
        rf"(?i:\bm(?:ln|io)\.?(?=\W|$))|\b{_NAMED}\s?\(m[nm]?\)|\b(?:19|20)\d\d [Mm]illions$"
    ),
    9: (
        rf"(?i:\bin billions?\b|\bbillions of\b|\bmilliarden\b|\bmilliards\b|\bmiliardi\b)|"
        rf"\b{_CURRENCY}\s?bn\b|(?<![A-Za-z])[€$£]\s?bn\b|\bMrd\.?(?=\W|$)|"
        rf"{_BEFORE}[Bb]illions?\b|[(\[]\s*[Bb]illions?\s*[)\]]|\b{_MONEY}[ _](?:bn|\(bn\))$"
    ),
}
# Units of what is weighed, measured or counted.
_MEASURES = frozenset(
    {"g", "kg", "kgs", "t", "to", "mt", "tonne", "tonnes", "ton", "tons", "lb", "lbs", "oz", "l", "lt", "ltr", "litre",
     "litres", "liter", "liters", "ml", "hl", "m3", "m³", "cbm", "gal", "gallon", "gallons", "bbl", "m", "km", "mi",
     "mile", "miles", "nm", "cm", "mm", "ft", "yd", "m2", "m²", "sqm", "sqft", "ha", "h", "hr", "hrs", "hour", "hours",
     "min", "mins", "minute", "minutes", "day", "days", "std", "pc", "pcs", "piece", "pieces", "ea", "each", "unit",
     "units", "st", "stk", "stück", "box", "boxes", "bx", "case", "cases", "cs", "carton", "cartons", "ctn", "pallet",
     "pallets", "pal", "pack", "packs", "bag", "bags", "kwh", "mwh", "gwh", "mj", "gj", "dozen", "dz", "pair", "pairs"}
)  # fmt: skip
_MEASURED = re.compile(
    r"(?:.*[ _-])?(?:quantit(?:y|ies)|qty|volumes?|weight|menge|gewicht|quantité|cantidad|quantità|aantal|consumption|"
    r"usage|verbrauch|value|reading|distance)(?:[ _-].*)?",
    re.IGNORECASE,
)
_OTHER = re.compile(r"\b(?:crores?|lakhs?|lacs?|(?<=in )hundreds|(?<=in )100(?= [A-Z€$£]))\b", re.IGNORECASE)


def unit_unknown(texts: Iterable[str]) -> str | None:
    """A unit that headings or titles say, and that no option has.

    >>> unit_unknown(["Sales", "Rs crore"])
    'crore'
    """
    return next((found[0] for text in texts if (found := _OTHER.search(text))), None)


def power_said(texts: Iterable[str]) -> int | None:
    """The power of ten that headings or titles say; None where they say none, or several.

    >>> [power_said([text]) for text in ("EUR '000", "Revenue (£m)", "in thousands", "Sales", "Km", "Revenue m", "$M")]
    [3, 6, 3, None, None, 6, 6]
    >>> [power_said([one]) for one in ("£ thousands", "IN MILLIONS", "in EUR 1,000", "tkr", "per thousand passengers")]
    [3, 6, 3, 3, None]
    >>> [power_said([one]) for one in ("MEUR", "EUR (m)", "mln", "kkr", "$K", "CHF 1000", "EUR 1000 and more")]
    [6, 6, 6, 3, 3, 3, None]
    >>> [power_said([one]) for one in ("EURM", "ITEM", "TEAM", "LOA m")]
    [6, None, None, None]
    """
    found = {power for text in texts for power, words in _WORDS.items() if re.search(words, text)}
    return found.pop() if len(found) == 1 else None


def unit_of(power: int) -> tuple[str, str]:
    """The letters and the word of a unit, by its power of ten.

    >>> unit_of(3)
    ('k', 'thousands')
    """
    letters = next(letter for letter, known in POWERS.items() if known == power)
    return letters, _UNIT_WORDS[letters]


def currencies_said(texts: Iterable[str]) -> tuple[str, ...]:
    """The currencies that headings or titles name, by their codes; the dollar's sign is that of several.

    >>> currencies_said(["Net EUR", "Budget (€)"]), currencies_said(["Sales $", "Cost £k", "Eurostar"])
    (('EUR',), ('$', 'GBP'))
    """
    words = "|".join(map(re.escape, (*_CODES, *_CODES.values())))
    found = re.findall(rf"(?<![A-Za-z])(?:{words})(?![A-Z])", " ".join(texts))
    return tuple(dict.fromkeys(code_of(one) for one in found))


def is_unit(text: str) -> bool:
    """Whether a text is the unit of a figure, and no name.

    >>> [is_unit(one) for one in ("k€", "%", "EUR", "North")]
    [True, True, True, False]
    """
    return text in ("%", "#") or bool(currencies_said([text])) or power_said([text]) is not None


def are_units_of_measure(texts: Iterable[str]) -> bool:
    """Whether texts are all units of what is weighed, measured or counted, and no names.

    >>> are_units_of_measure(["kg", "T"]), are_units_of_measure(["kg", "North"])
    (True, False)
    """
    return all(text.strip(" .").casefold() in _MEASURES for text in texts)


def is_measured(heading: str) -> bool:
    """Whether amounts so headed have the unit that a column of units says: 'Quantity', 'Fuel consumption'."""
    return _MEASURED.fullmatch(heading.strip()) is not None


def are_currencies(texts: Iterable[str]) -> bool:
    """Whether texts are all codes of well-known currencies.

    >>> are_currencies(["EUR", "SEK"]), are_currencies(["EUR", "HQ"])
    (True, False)
    """
    return all(text.strip() in USUAL for text in texts)


def code_of(currency: str) -> str:
    """The code of a currency that may be written by its sign.

    >>> code_of("€"), code_of("eur"), code_of("SEK")
    ('EUR', 'EUR', 'SEK')
    """
    return _CODES.get(currency, currency.upper())


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
    # `Revenue LTM` says no currency.
    if (last := re.search(rf"[\s(\[,]*({_CURRENCY})[\s)\]]*$", heading)) and last[1] in (*USUAL, *_CODES):
        heading = heading[: last.start()] if len(heading) > len("EUR") else heading
    return re.sub(r"\(\s*\)|\[\s*\]", "", heading).strip(" ,;:-–_([")
