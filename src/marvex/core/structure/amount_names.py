"""What the heading of a column of amounts, or the name of a line, says of adding it up: a balance, a rate."""

from __future__ import annotations

import re
from collections.abc import Sequence

from marvex.core.words.spelled_out import spelled_out

# What is there on a date.
_BALANCE = (
    r"(?:\w+ )?balances?|head ?count|people|employees|ftes?|(?:stock|inventory)(?: (?:level|value|on hand))?|[am]rr|"
    r"(?:annual|monthly) recurring revenue|(?:active |paying )(?:\w+ )?(?:customers|users|accounts|members)|"
    r"subscribers|members(?:hip)?|(?:order )?backlog|order book|(?:trade )?(?:receivables|payables|debtors|creditors)|"
    r"net debt|aum|assets under management|(?:\w+ )?outstanding|open (?:orders|positions|invoices|tickets|cases)|"
    r"fleet(?: size)?|wip|work in progress|cash at bank|net assets|exposure|deferred (?:revenue|income)|"
    r"shares in issue|vacancies|(?:as )?at|as of|[dwm]au|accounts (?:payable|receivable)|total assets|equity|debt|"
    r"working capital|nav|net asset value|(?:portfolio|market) value|market cap(?:itali[sz]ation)?|installed base|"
    r"(?:sales )?pipeline|(?:rent )?arrears|(?:crew |passengers )?on board|"
    r"(?:(?:store|branch|site|vessel|customer|member) count|number of (?:stores|branches|sites|vessels|staff|members))|"
    r"saldo|kontostand|(?:lager)?bestand|mitarbeiter(?:zahl)?|effectifs?|solde"
)
_OF_A_SPAN = r"of (?:the )?(?:\w+ )?(?:year|period|month|quarter|half|week|day)"
_END = (
    r"(?:opening|closing|beginning|ending)(?: (?!costs?|fees?|sales?|hours?|nights?|days?|part(?:y|ies)|"
    r"ceremon|events?|acts?|shows?|times?|offers?|season|down|up\b).*)?|"
    rf".+ at (?:the )?(?:start|beginning|end|close)(?: {_OF_A_SPAN})?|"
    rf".+(?:,| [-–—]) (?:start|beginning|end)(?: {_OF_A_SPAN})?|.+ (?:[bc]/fw?d?|(?:brought|carried) (?:forward|down))"
)
# What is one thing per another.
_RATE = (
    r"(?:.* )?(?:rate|ratio|average|avg|mean|median|yield)|(?:average|avg|mean|median) .*|[ø⌀](?: .*)?|"
    r"unit (?:price|cost|margin)s?|(?:.* )?(?:pct|percent(?:age)?)|(?:yoy |annual |organic )?growth|"
    r"days (?:sales|payables?|receivables?|inventory) outstanding|on[- ]time performance|punctuality|"
    r"(?:customer |staff )?satisfaction|ltv|cac|eps|[cpr]pi|gini|leverage|gearing|"
    r"(?:turn(?:a?round)?|cycle|lead|response|wait(?:ing)?|handling|resolution|delivery) times?|"
    r".*\w per \w.*|.*[%‰].*|(?:.* )?(?:bps?|basis points)(?: .*)?|"
    r"(?:.* )?(?:load factor|occupancy|utili[sz]ation)(?: rate)?|"
    r"(?:.* )?(?:score|rating|attainment|achievement)|"
    r"(?:.* )?(?:nps|csat|churn|conversion|adr|revpar|arpu|arpa|dso|dpo|dio|roi|roe|roce|"
    r"temperature|speed|humidity)|(?:.* )?index(?:,? \(?\d.*)?|"
    r"(?:market )?share"
)
_LEVEL = r"(?!total|sales)(?:.* )?(?:price|age|\w*preis|prix|precio)"
# What is worked out of all others, but not their sum; a person may be called Max.
_STATISTIC = (
    r"(?:(?:overall|total|grand|simple|weighted|arithmetic|monthly|yearly|annual|row|column) )?"
    r"(?:average|avg\.?|mean|median|durchschnitt(?:swert)?|mittelwert|moyenne|médiane|promedio|"
    r"mediana?|média|mediane|gemiddelde?|gennemsnit|gjennomsnitt|medelvärde|genomsnitt|keskiarvo)"
    r"(?:(?: per| of| pro| par| por| der) .*)?|"
    r"(?:std\.?|standard)[ -]?(?:dev\.?|deviation|abweichung)|st\.?dev\.?|standardabweichung|écart[ -]type|"
    r"maximum|minimum|highest|lowest|"
    r"(?:yoy |y/y |%\s?|annual )?growth(?:\s?%| rate)?|yoy|y/y|year[- ]on[- ]year(?: .*)?"
)
_EXTREMES = (r"max\.?", r"min\.?")
_SHEET_TOTAL = (
    r"(?:total |net |net current )assets(?: less .*)?|total (?:current |non-?current |fixed )?(?:assets|liabilities)|"
    r"total (?:(?:liabilities|equity|capital),? (?:and|&) .*|.*equity)|(?:total )?shareholders['’]? (?:funds|equity)|"
    r"bilanzsumme|total (?:de l'|du )?(?:actif|passif)|total (?:activo|pasivo|attivo|passivo)|balanstotaal"
)
_SHEET_LINE = (
    r"(?:(?:trade|other|current|fixed|non-?current|tangible|intangible|accounts?) )*"
    r"(?:assets|liabilities|debtors|creditors|receivables?|payables?)|cash(?: at bank| in hand| and cash equivalents)?|"
    r"(?:cash at )?bank(?: account)?|inventor(?:y|ies)|stocks?|equity|(?:share|issued) capital|retained earnings|"
    r"reserves|(?:bank |term )?loans?(?: payable)?|borrowings|(?:bank )?overdraft|property,? plant (?:and|&) equipment|"
    r"ppe|goodwill|deferred (?:revenue|income|tax)|accruals|prepayments|forderungen|verbindlichkeiten|eigenkapital|"
    r"anlagevermögen|umlaufvermögen|vorräte|kasse"
)


def is_balance(heading: str) -> bool:
    """Whether amounts so headed are there on a date, and do not add up along time: 'Headcount', 'ARR'."""
    return _is(_BALANCE, heading) or is_end(heading)


def is_end(name: str) -> bool:
    """Whether a name is of what was there at first, or in the end: 'Opening cash'.

    >>> [is_end(one) for one in ("Opening cash", "Closing stock", "Closing costs")]
    [True, True, False]
    """
    return _is(_END, name)


def is_rate(heading: str) -> bool:
    """Whether amounts so headed are one thing per another: 'Occupancy', 'Revenue per trip', 'NPS'."""
    return _is(_RATE, heading)


def is_level(heading: str) -> bool:
    """Whether amounts so headed are levels by month, though each of many sales may have its own: 'Price'."""
    return _is(_LEVEL, heading)


def statistics_among(names: Sequence[str]) -> list[str]:
    """The names of what is worked out of all others, and is not their sum: an average, the highest of them.

    >>> statistics_among(["North", "Average"]), statistics_among(["Max", "Jo"]), statistics_among(["Jo", "Min", "Max"])
    (['Average'], [], ['Min', 'Max'])
    """
    extremes = [one for pattern in _EXTREMES for one in names if _is(pattern, one)]
    return [one for one in names if _is(_STATISTIC, one) or (len(extremes) > 1 and one in extremes)]


def adds_up(heading: str) -> bool:
    """Whether nothing in a heading speaks against adding its amounts up."""
    return not (is_balance(heading) or is_rate(heading) or is_level(heading))


def is_total_of_sheet(label: str) -> bool:
    """Whether a line is a total of a balance sheet: 'Total assets', 'Total liabilities and equity'."""
    return _is(_SHEET_TOTAL, label)


def is_line_of_sheet(label: str) -> bool:
    """Whether a line is mostly one of a balance sheet: 'Trade receivables', 'Cash at bank'."""
    return _is(_SHEET_LINE, label)


def _is(pattern: str, text: str) -> bool:
    return re.fullmatch(pattern, spelled_out(text), re.IGNORECASE) is not None
