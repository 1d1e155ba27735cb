"""What the name of a line says of costs and of income."""

from __future__ import annotations

import re
from collections.abc import Sequence

from marvex.core.words.spelled_out import spelled_out

_COST = re.compile(
    r"\b(?:costs?|expenses?|expenditure|spend(?:ing)?|spent|outlays?|overheads?|wages|salaries|payroll|people|staff|rent|tax(?:es)?|interest|"
    r"depreciation|amortisation|amortization|fees|purchases|goods sold|(?:sales|selling) (?:and|&) \w+|"
    r"marketing (?:and|&) sales|sales (?:force|team|staff|promotions?|commissions paid)|"
    r"kosten|aufwand|aufwendungen|löhne|gehälter|miete|steuern|charges|achats|salaires|loyers?|impôts?|coûts?|"
    r"gastos?|costes?|costos?|salarios|costi|spese|imposte|oneri|lasten|kostprijs|"
    r"omkostninger|kostnader|utgifter|custos|despesas)\b|kosten\b|aufwand\b",
    re.IGNORECASE,
)
_BEFORE_OR_AFTER = re.compile(
    r"(?<=\w)\s+(?:before|after|excluding|net of|over|less|minus|between|tra|entre|zwischen|vor|nach|avant|après|"
    r"antes de|después de|prima d\w*|dopo)\b.*",
    re.IGNORECASE,
)
# What comes in, though it is called after a cost: 'Interest income', 'Rent received', 'Tuition fees'.
_COMES_IN = re.compile(
    r"(?!.*\b(?:of|on|for|than|lost)\b).*\b(?:income|revenues?|receivables?|received|earned|recover(?:y|ies|ed)|"
    r"refund(?:s|ed)?|reimbursements?|rebates?|credits?|subsid(?:y|ies)|grants?|proceeds)(?: \(.*\))?|"
    r"(?:(?:other|sundry|finance|financial|operating|net|gross|total) )*(?:income|revenues?)(?: from\b|\s*[:>/–-]).*|"
    r"(?:.* )?(?:tuition|school|course|member(?:ship)?|entry|entrance|admission|green|match|parking|berthing|berth|"
    r"mooring|landing|registration|booking|boarding|player|nursery|club|visitor|camp(?:ing|site)?|toll|"
    r"exam(?:ination)?|service|delivery) (?:fees|charges)|"
    r"intérêts (?:reçus|perçus)|produits? .*|loyers? (?:reçus|perçus|encaissés)|"
    r"(?:ingresos|recettes|ricavi|inkomsten|intäkter|inntekter|indtægter)\b.*",
    re.IGNORECASE,
)
# What is mostly a cost, though a firm may live by selling it.
_MOSTLY_COST = re.compile(
    r"\b(?:fuel|repairs?|maintenance|insurance|electricity|utilities|cleaning|postage|stationery|bad debts?|dues|"
    r"subcontract\w*)\b",
    re.IGNORECASE,
)
_DEBT = (
    r"(?:(?:total|trade|other|current|non-?current|long[- ]term|short[- ]term|bank|tax|accounts|mortgage) )*"
    r"(?:payables?|creditors|liabilities|loans?|borrowings|overdraft|debts?|mortgage|verbindlichkeiten|dettes)"
)
# Columns of a list of accounts: their codes, and their names.
ACCOUNT_CODES = ("account", "account code", "account_code", "code", "nominal", "number", "account number")
ACCOUNT_NAMES = ("account name", "account_name", "name", "description", "title", "label")
# A column that says which rows are income and which are costs, and what it says.
KINDS = ("kind", "type", "class", "group", "category")
INCOME = ("income", "revenue", "sales", "turnover", "other income")
COST = ("cost", "costs", "expense", "expenses", "expenditure", "cost of sales", "overhead", "overheads")


def speaks_of_cost(label: str) -> bool:
    """Whether a label speaks of a cost: 'Staff costs', 'Rent'; not of what there is before or after one.

    >>> [speaks_of_cost(one) for one in ("Staff costs", "Profit before tax", "Costs after recharges")]
    [True, False, True]
    >>> [speaks_of_cost(one) for one in ("Income over costs", "Sales and marketing", "Coût d'achat")]
    [False, True, True]
    >>> [speaks_of_cost(one) for one in ("Interest income", "Rent received", "Tax on income", "Audit fees")]
    [False, False, True, True]
    """
    name = spelled_out(label)
    return _COST.search(_BEFORE_OR_AFTER.sub("", name)) is not None and _COMES_IN.fullmatch(name) is None


def looks_like_debt(label: str) -> bool:
    """Whether a label is that of something owed: 'Trade payables', 'Bank loan'.

    >>> looks_like_debt("Trade payables"), looks_like_debt("Loan interest")
    (True, False)
    """
    return re.fullmatch(_DEBT, spelled_out(label), re.IGNORECASE) is not None


def looks_like_cost(label: str) -> bool:
    """Whether a label speaks of a cost, or of what is one in most firms: 'Fuel'."""
    name = spelled_out(label)
    return speaks_of_cost(name) or (_MOSTLY_COST.search(name) is not None and _COMES_IN.fullmatch(name) is None)


# What is sold, what it costs each, and what it brings, in other languages than English.
_QUANTITY = (
    r"(?:absatz)?menge|stück(?:zahl)?|absatz|quantités?|unités|cantidad|unidades|quantità|quantidade|aantal|"
    r"antall?|mängd"
)
_PRICES = r"preis|prix|precio|prezzo|preço|prijs|pris"
SALES_ABROAD = (
    r"umsatz\w*|\w*erlöse?|chiffre d'affaires|ventes|ventas|ingresos|ricavi|vendite|omzet|opbrengsten|receita\w*|"
    r"vendas|omsætning|omsetning|omsättning|intäkter|liikevaihto"
)
# Of a line beside costs; a department may be called Sales, but not where others are called costs.
_INCOME = re.compile(
    rf"\b(?:sales|revenues?|turnover|income|{SALES_ABROAD})\b|"
    r"\b(?:interest|rents?|rental|fees|dividends?|royalt(?:y|ies)|commissions?|grants?|donations?) "
    r"(?:received|receivable|earned)\b",
    re.IGNORECASE,
)
_COUNT_OR_RATE = re.compile(
    r"(?:number|no\.?|nr\.?|#) of .*|(?:average |closing )?head ?counts?(?: .*)?|(?:average )?ftes?(?: \(.*\))?|"
    r"full[- ]time equivalents?|(?:.* )?(?:exchange|fx|occupancy|utili[sz]ation|load|conversion) (?:rate|factor)|"
    r"(?:average|avg\.?|mean) (?:price|fare|cost|revenue|spend|yield|rate|ticket|salary|wage|load|occupancy|age)\b.*|"
    r"(?:average )?occupancy|utili[sz]ation|"
    r"(?:.* )?(?:revenue|income|costs?|price|fare|yield|spend|sales|margin|profit|trips|passengers) per .*",
    re.IGNORECASE,
)
# Of the headings of columns side by side, where an account may well be called Tickets.
_MONEY = re.compile(
    r"\b(?:revenues?|sales|turnover|income|amount|value|costs?|expenses?|net|gross|margin|profit|takings|fares|eur|usd|gbp|pay|"
    r"fees?|wages|salar(?:y|ies)|payroll|betrag|kosten|montant|coûts?|importe|costes?|importo|costi|bedrag|belopp|"
    rf"kostnad(?:er)?|beløb|{SALES_ABROAD})\b",
    re.IGNORECASE,
)
_COUNTED = re.compile(
    r"\b(?:tickets?|passengers?|trips?|sailings?|units?|quantit(?:y|ies)|qty|volumes?|hours|nights|customers?|orders?|"
    r"bookings?|visits?|vehicles|cars|pieces|pax|crossings|calls|tonnes?|tons|kg|lit(?:re|er)s?|km|miles|price|rate|days|"
    rf"{_QUANTITY}|{_PRICES}|stunden|satz|heures|horas|uren|timmar|timer)\b",
    re.IGNORECASE,
)
_RATE = re.compile(rf"\b(?:price|rate|average|avg|per|{_PRICES})\b", re.IGNORECASE)
_SPENT = re.compile(r"\b(?:invoiced|billed|paid|booked|achieved|reali[sz]ed|outturn|results?)\b", re.IGNORECASE)
# Of rows, where a line may be called Cars: what can hardly be money beside a line called Revenue and nothing else.
_COUNTED_ALONE = re.compile(
    r"(?:total )?(?:tickets(?: sold)?|passengers(?: carried)?|trips|sailings|units(?: sold)?|quantity|qty|volume|"
    r"customers|orders|bookings|visits|nights|pieces|tonnes|tons|kg|lit(?:re|er)s|km|miles|hours(?: worked)?)|"
    r"mitarbeiter(?:zahl)?|vollzeitäquivalente|vzä|fahrgäste|passagiere|anzahl .*|effectifs?(?: moyens?)?|etp|"
    r"passagers|nombre d[e'].*|plantilla(?: media)?|pasajeros|número de .*|organico(?: medio)?|passeggeri|numero di .*|"
    r"passageiros|medewerkers|aantal .*|passagiers|anställda|årsverk|antal+ .*|ansatte|passagerer|"
    rf"{_QUANTITY}",
    re.IGNORECASE,
)
# Of these what may be money where none of it is called so, or a step of a bridge.
_SOLD = re.compile(
    rf"(?:total )?(?:tickets|orders|bookings|customers|units(?: sold)?|quantity|qty|volume)|{_QUANTITY}",
    re.IGNORECASE,
)
# What is one of a quantity and of money beside it; alone it may be a step of a bridge.
_PRICE = re.compile(
    r"(?:(?:average|avg\.?|unit|sales|selling|ticket) )?(?:prices?|fare|rate)|"
    rf"(?:stück|verkaufs|durchschnitts)?(?:{_PRICES})(?: .*)?",
    re.IGNORECASE,
)
# Beside these Passengers are likely to be what they pay.
_CARRIED = re.compile(
    r"(?:motor )?vehicles|cars|freight|cargo|parcels|coaches|lorries|trucks|bicycles|bikes|mail|livestock",
    re.IGNORECASE,
)
_MONEY_ALONE = re.compile(
    r"(?:(?:ticket|passenger|vehicle|total|net|gross) )?(?:revenue|sales|turnover|income|takings|fares)|"
    rf"{SALES_ABROAD}",
    re.IGNORECASE,
)
_ALL_INCOME = re.compile(r"(?:(?:total|net|gross) )?(?:revenues?|turnover|income)", re.IGNORECASE)
# Of a column whose rows are each of something else.
_MEASURES = re.compile(
    r"kpis?|metrics?|measures?|indicators?|kennzahl(?:en)?|indicateurs?|indicador(?:es)?|indicatori?"
)
_OF_DEPARTMENTS = {"sales", "people", "staff", "fees", "interest", "tax", "charges"}


def speaks_of_income(label: str) -> bool:
    """Whether a label speaks of income, and not of a cost, as 'Income tax' does."""
    return _INCOME.search(spelled_out(label)) is not None and not speaks_of_cost(label)


_SPENDING = re.compile(
    r"committed|commitments?|encumbered|encumbrances?|(?:over|under)[- ]?spen[dt]|"
    r"(?:% |percent )?(?:spent|used|utili[sz]ed)",
    re.IGNORECASE,
)


def speaks_of_spending(heading: str) -> bool:
    """Whether a heading stands beside a budget that is spent.

    >>> [speaks_of_spending(one) for one in ("Committed", "% used", "Overspend", "Remaining")]
    [True, True, True, False]
    """
    return _SPENDING.fullmatch(spelled_out(heading).strip()) is not None


def counts_or_rates(labels: Sequence[str], *, beside_money: bool = False) -> list[str]:
    """The labels that by their words are of counts or of rates, which do not add up with money.

    Parameters
    ----------
    beside_money : the others are known to be money, whatever they are called.

    >>> counts_or_rates(["Ticket revenue", "Number of trips", "Headcount", "Revenue per trip", "Trips"])
    ['Number of trips', 'Headcount', 'Revenue per trip', 'Trips']
    >>> counts_or_rates(["Passengers", "Cars", "Freight", "Fuel"]), counts_or_rates(["Passengers", "Fuel", "Rent"])
    ([], ['Passengers'])
    >>> counts_or_rates(["Volume", "Price", "Sales"]), counts_or_rates(["Volume", "Price", "Fuel"])
    (['Volume', 'Price'], [])
    >>> counts_or_rates(["Hours", "Rate", "Cost"]), counts_or_rates(["Rates", "Rent", "Fuel"])
    (['Hours', 'Rate'], [])
    """
    names = [spelled_out(one) for one in labels]
    has_money = beside_money or any(map(_MONEY_ALONE.fullmatch, names))
    has_kinds = any(looks_like_cost(one) or speaks_of_income(one) for one in names)
    has_kinds = has_kinds and not any(map(_CARRIED.fullmatch, names))

    def is_count(name: str) -> bool:
        is_alone = _COUNTED_ALONE.fullmatch(name) is not None
        return is_alone and (has_money or (has_kinds and not _SOLD.fullmatch(name)))

    has_counts = any(map(is_count, names))

    def is_counted(name: str) -> bool:
        is_price = has_counts and _PRICE.fullmatch(name) is not None
        return is_price or is_count(name) or _COUNT_OR_RATE.fullmatch(name) is not None

    return [label for label, name in zip(labels, names, strict=True) if is_counted(name)]


def are_measures(column: str) -> bool:
    """Whether a column's name says that its rows are each of something else, which do not add up: 'KPI'."""
    return _MEASURES.fullmatch(spelled_out(column).casefold()) is not None


def unlike_measures(headings: Sequence[str]) -> list[str]:
    """The headings that count something, beside others that are of money, or are a rate beside what is none.

    >>> unlike_measures(["Tickets", "Revenue"]), unlike_measures(["Ticket revenue", "North"])
    (['Tickets'], [])
    >>> unlike_measures(["Quantity", "Price"])
    ['Price']
    """
    names = {one: spelled_out(one) for one in headings}
    money = [one for one, name in names.items() if _MONEY.search(name)]
    rates = [one for one, name in names.items() if _RATE.search(name) and one not in money]
    counted = [one for one, name in names.items() if _COUNTED.search(name) and one not in money]
    return counted if money else rates if len(rates) < len(headings) else []


def speaks_of_money(heading: str) -> bool:
    """Whether a heading is one of money, and of no count: 'Sales', 'Spend to date'.

    >>> [speaks_of_money(one) for one in ("Spend", "Sales", "Note", "Qty", "Headcount")]
    [True, True, False, False, False]
    """
    name = spelled_out(heading)
    is_money = _MONEY.search(name) or _SPENT.search(name) or speaks_of_cost(name)
    return bool(is_money) and not counts_or_rates([heading])


def could_be_department(label: str) -> bool:
    """Whether a label that speaks of a cost could as well be a department's name alone: 'People'."""
    return label.strip().casefold() in _OF_DEPARTMENTS


def is_income_of_costs(whole: str, parts: Sequence[str]) -> bool:
    """Whether by its name a line cannot be what those come to: sales, of fuel and of what is left.

    >>> [is_income_of_costs("Sales", of) for of in (["Fuel costs", "Left over"], ["North", "South"])]
    [True, False]
    """
    income, costs = income_and_costs([whole, *parts])
    return whole in income and not set(costs).isdisjoint(parts)


def income_and_costs(labels: Sequence[str]) -> tuple[list[str], list[str]]:
    """The labels that speak of income, and those that speak of costs; none that could be a department's name alone.

    >>> income_and_costs(["Revenue", "Fuel cost", "Income tax", "People"])
    (['Revenue'], ['Fuel cost', 'Income tax'])
    >>> income_and_costs(["Revenue", "Fuel"]), income_and_costs(["Fare revenue", "Fuel"])
    ((['Revenue'], ['Fuel']), (['Fare revenue'], []))
    """
    income = [one for one in labels if speaks_of_income(one)]
    costs = [one for one in labels if speaks_of_cost(one) and not could_be_department(one)]
    # Beside a line that is all of the income there is, fuel is nothing that is sold.
    if not costs and any(_ALL_INCOME.fullmatch(one.strip()) for one in income):
        costs = [one for one in labels if _MOSTLY_COST.search(one) and one not in income]
    return income, costs
