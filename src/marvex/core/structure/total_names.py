"""What the names of totals, results, ratios, openings and closings are: asked of here by every reader and list.

A name is evidence and no proof: 'Total Energies' is a customer. The words are anchored, so that 'Loss on
disposal' and 'Profit share paid' are no results.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from enum import Enum
from functools import cache

from marvex.core.compare.scenario_words import ACTUAL_WORDS, PLANNED_WORDS
from marvex.core.words.spelled_out import spelled_out


class Naming(Enum):
    """What the name of a line says that it is."""

    NONE = "none"
    TOTAL = "total"  # of what it stands below, or above: 'Total', 'Total income', 'Summe'
    RESULT = "result"  # what is left of other lines: 'Gross margin', 'Profit before tax', 'EBITDA'
    GROUP = "group"  # of what may be one line or the total of several: 'Revenue', 'Overheads'
    WHOLE = "whole"  # of all that a list may be of, or one of its own: 'Group', 'Network'
    CLOSING = "closing"  # of a list that began with an opening: 'End of year'
    RATIO = "ratio"  # 'Gross margin %'

    @property
    def is_total(self) -> bool:
        return self in (Naming.TOTAL, Naming.RESULT, Naming.CLOSING)


# English, German, French, Spanish, Italian, Portuguese, Dutch, the Nordic languages, then those east of them.
_TOTAL_WORDS = (
    r"(?:grand\s+|sub-?\s?|sous-|zwischen|gesamt|del|väli)?"
    r"(?:totals?|sum|summe|somme|suma|soma|totale|totali|totaux|totaal|totalt|summa)"
    r"|gesamt|insgesamt|in all|al(?:together|l together)|i\s?alt|yhteensä|samtals|zusammen|razem|celkem|spolu|összesen|"
    r"skupaj|ukupno|kokku|kopā|iš viso|toplam|итого|всего|σύνολο|合計|合计|总计|總計"
)
_ALONE = r"tot|ttl|[σς∑]|计|計|t o t a l|everything"  # and nothing else in the name
_ALL = r"all|overall|combined|alle|tous|toutes|todos|todas|tutti|tutte|alla|kaikki"
_TOTAL = rf"(?:{_TOTAL_WORDS}|{_ALL}|{_ALONE})(?:\s+g[ée]n[ée]ral[e]?)?"
# Of small letters, and without what a database's patterns do not have.
BEGINS_OR_ENDS_AS_TOTAL = rf"(?:{_TOTAL_WORDS})(?:[^a-z].*)?|.*[^a-z](?:{_TOTAL_WORDS})"
# What a sum is held against: 'Per ledger', 'As per trial balance'.
_PER_BOOKS = (
    r"(?:as )?per (?:the )?(?:(?:general|nominal|sales|purchase) )?"
    r"(?:ledger|gl|tb|trial balance|accounts|books|erp|system)"
)
_WITH_TOTAL = rf"(?:{_TOTAL_WORDS}|{_ALL})\b.*|.*\b(?:{_TOTAL_WORDS})|gesamt\w+|{_ALONE}|{_PER_BOOKS}"
_TOTAL_WITHIN = rf"\b(?:{_TOTAL_WORDS})\b"

_BEFORE_OR_AFTER = (
    r"(?:\s+(?:before|after|pre|post|excluding|vor|nach|avant|après|antes de|después de|prima d|ante|dopo|voor|na|"
    r"før|efter|etter|före|ennen|depois d|antes d)\b.*)"
)
_OF_THE_YEAR = (
    r"(?:\s+(?:for|of|in|from|de|du|do|del|des|der|dell'|de l')\s*(?:the |l')?"
    r"(?:\w+ing )?(?:year|period|month|quarter|half|week|jahres|geschäftsjahres|exercice|période|ejercicio|período|"
    r"esercizio|exercício|operations|ordinary activities|activities|core business|jaar).*)"
)
_TAIL = rf"(?:{_BEFORE_OR_AFTER}|{_OF_THE_YEAR}|\s+(?:[ivx]+|\d|brut[aoe]?|net[toae]*|bruto|lordo|operativo))*"
_ADJECTIVE = (
    r"(?:(?:in[- ]year|gross|operating|trading|net|underlying|adjusted|normali[sz]ed|recurring|headline|pre-?tax|"
    r"pretax|statutory|retained(?! earnings)|total|overall|group|consolidated|ordinary|annual|final|budgeted|actual|"
    r"planned|forecast|comprehensive|contribution|project|segment|divisional|branch|segmental)\s+)*"
)
_PROFIT = r"(?:profits?|loss(?:es)?|margin|results?|surplus|deficit|contribution|earnings|bottom line)"
_IN_OR_OUT = r"(?:generated|provided|used|absorbed|arising|from|by|in|for)"
_NET = (
    r"net\s+(?:operating |ordinary |cash |trading |current )*"
    r"(?:income|cash ?flow|cash|assets|liabilities|sales|revenues?|turnover|expenditure|expenses?|costs?|movement|"
    r"change|increase|proceeds|worth|position|(?:book|carrying) (?:value|amount)|debt|interest|"
    r"finance (?:costs?|income)|benefit)"
    r"(?:\s*(?:/|or)?\s*\(?(?:loss|expense|decrease|outflow|costs?|assets|liabilities)\)?)?"
    r"(?:\s+(?:from|used in|in)\s+.*|\s+(?:of|on)\s+(?:\w+ )?services?)?"
)
_ENGLISH_RESULT = "|".join(
    (
        rf"{_PROFIT}(?:\s*(?:/|or|and)?\s*\(?{_PROFIT}\)?)?",
        r"(?:operating|gross|pre-?tax|comprehensive)\s+income(?:\s*/?\s*\(?loss\)?)?",
        r"(?:ebitda|ebita?|ebt|ebitdar|pbt|pat|pbit|noi|nopat|gp|np)",
        _NET,
    )
)
_RESULT_OF_A_TIME = "|".join(
    (
        rf"{_ADJECTIVE}(?:{_ENGLISH_RESULT})",
        r"(?:(?:net|free|operating|investing|financing|unlevered|levered|total)\s+)+cash[ -]?flows?"
        r"(?:\s*\(?(?:in|out)flows?\)?)?",
        r"(?:roh|brutto|betriebs|jahres|perioden|geschäfts|handels|zwischen|finanz|gesamt|vorsteuer|netto|konzern|rein)*-?"
        r"(?:ergebnis|gewinn|verlust|überschuss|überschuß|fehlbetrag|marge|ertrag)(?:\s+(?:der|des|aus)\s.*)?",
        r"(?:perte|déficit|pérdida|perdita|prejuízo|disavanzo)",
        r"(?:bruto|netto|bedrijfs)?-?(?:resultaat|marge|winst|verlies|winstmarge)",
    )
)
_RESULT = "|".join(
    (
        rf"(?:{_RESULT_OF_A_TIME}){_TAIL}",
        rf"(?:net |total )?cash(?:[ -]?(?:in|out)?flows?)?(?:[ /]*\(?{_IN_OR_OUT}\)?)+ (?:the |all |normal )?"
        r"(?:operat|invest|financ|trading)(?:ing|ions?|ment)\b.*",
        r"(?:net )?\(?(?:in|de)crease\)?(?:\s*(?:/|or)\s*\(?(?:in|de)crease\)?)? in (?:net )?cash\b.*",
        r"(?:net |total )?(?:changes?|movements?) in (?:net )?cash\b.*",
        r"(?:netto-?)?(?:cash-?flow|mittel(?:zu|ab)fluss) (?:aus|für|vor|nach) .*|(?:netto-?)?veränderung (?:der|des) "
        r"(?:liquiden mittel|zahlungsmittel|finanzmittel).*",
        r"flux (?:nets? )?de (?:la )?trésorerie .*|variation (?:nette )?de (?:la )?trésorerie.*",
        r"(?:as )?(?:reported|underlying|adjusted|normali[sz]ed)(?: (?:figures?|numbers?))?",
        r"roh(?:ertrag|gewinn|marge|ergebnis)|deckungsbeitrag(?:\s+\w+)?|gesamtleistung|betriebserfolg",
        r"(?:résultat|marge|bénéfice|excédent|valeur ajoutée|resultado|margen|beneficio|utilidad|ganancia|superávit|"
        r"risultato|margine|utile|valore aggiunto|margem|lucro)(?:\s.*)?",
        r"(?:brutto|drifts|rörelse|årets|års|netto|finans|ordinært|ordinarie)*[ -]?"
        r"(?:resultat|resultatet|vinst|förlust|fortjeneste|avance|overskudd?|överskott|underskudd?|underskott)(?:\s.*)?",
        r"(?:dækningsbidrag|dekningsbidrag|täckningsbidrag|liikevoitto|liiketulos|tilikauden \w+|käyttökate|myyntikate|"
        r"bruttokate|voitto|tappio|tulos)(?:\s.*)?",
    )
)
# What is no more than that: 'Contract margin' is a result where lines come to it, and a line where they do not.
_MAY_BE_RESULT = (
    r"net\b.*|retained(?: (?:for|in|by) .*)?|.*[, (]net\)?|"
    r".*\b(?:margin|profit|surplus|deficit|contribution|result|earnings|netback)\b.*|"
    r"(?:\w+ )*excess\b.*|.*\bnet of\b.*|.*\b(?:income|loss|balance)\b.*\b(?:after|before)\b.*|"
    r".*\b\w*(?:ergebnis|gewinn|überschuss|erfolg|deckungsbeitrag|marge|erlöse?|ertrag|résultat|bénéfice|excédent|"
    r"margen|resultado|beneficio|utile|margine|risultato|differenza|différence|diferencia|resultaat|winst|saldo|solde|"
    r"resultat|resultatet|överskott|overskudd?|netto)\b.*|"
    r"closing\b.*|.*\bat (?:the )?end\b.*|.*\b(?:carried forward|c/f)"
)
# What was kept of earlier results, a line of a balance sheet that is always what its others leave.
_KEPT = (
    r"(?:retained|accumulated|undistributed) (?:earnings|profits?|surplus|deficit)\b.*|"
    r"profit (?:and|&) loss\b.*|p&l\b.*|(?:.* )?reserves?(?: .*)?|.*\bbrought forward"
)
_GROUP = (
    r"top[- ]line|(?:other |direct |indirect |gross |net )?(?:revenues?|sales|turnover|income|costs?|expenses|"
    r"expenditure|overheads|receipts|payments|inflows?|outflows?|cost of (?:sales|goods sold)|"
    r"operating (?:costs|expenses)|umsatz(?:erlöse)?|"
    r"erträge|aufwendungen|kosten|produits|charges|ventes|ingresos|gastos|ricavi|costi|omzet|opbrengsten|receitas|"
    r"custos|despesas|intäkter|kostnader|inntekter|kostnader|indtægter|omkostninger)"
)
_WHOLE = (
    r"(?:the )?(?:whole |entire )?(?:group|company|network|fleet|portfolio|organi[sz]ation|konzern|unternehmen|groupe|"
    r"grupo|gruppo|koncern(?:en)?|konsern|konserni|groep)(?:[- ]?wide)?|"
    r"(?:whole|entire) (?:business|country|firm)|"
    r"consolidated(?: (?:group|accounts|position))?|konsolidiert|consolidé|consolidado|consolidato|geconsolideerd|"
    r"(?:world|nation|country|system)[- ]?wide"
)
_SEGMENT = (  # of the whole only where it comes to all others
    r"business|national|international|global|enterprise|summary|overview|consol|aggregate|roll-?up|"
    r"zusammenfassung|übersicht|synthèse|resumen|riepilogo|overzicht|resumo"
)
_OF_BALANCE = {"assets", "liabilities", "equity", "liabilities and equity", "current assets", "current liabilities"}
_PART = (
    r"[-–•*(\s]*(?:of which|o/w|thereof|davon|darunter|dont|di cui|de (?:los|las) cuales|waarvan|varav|hvorav|heraf|"
    r"d[ao]s quais)\b"
)
SET_IN = r"\s*(?:[-–—•·▪‣»]+\s*|[*>]+\s+)(?=[^\W\d_])(?!.*[-–—*>]\s*$)"  # but '- none -'
_MEMO = r"[-–•*(\s]*(?:memo(?:randum)?(?: items?)?|for information|pro memoria|pour mémoire|nachrichtlich)\b"
_VARIANCE = (
    r"\b(?:variances?|var\.?|diff\.?|differences?|change|delta|movement|abweichung|abw\.?|écart|desviación|scostamento|"
    r"verschil|desvio|avvikelse|avvik|afvigelse)(?=\W|$)|[Δ∆]|^[+±]\s?/\s?[-−]$"
)
_RATIO = r".*(?:%|\b(?:per ?cent(?:age)?|pct|prozent|ratio|quote|procent)\b).*"

_ENUMERATOR = r"^(?:[a-z]|[ivx]{1,4}|\d{1,2}(?:\.\d{1,2})*)[.):]\s+"  # 'C. Result', '2.1) Fuel'
_FORMULA = r"\s*\((?:[a-z\d]{1,2}\s*[-–−+=/]\s*)+[a-z\d]{1,2}\)$"  # 'Result (A-B)'
_SPAN = r"(?: (?:of )?(?:the |last |this )?(?:year|period|month|quarter|half|week|day|season|\d.*))?"
_OF_A_SPAN = r"(?:of|of the) (?:\w+ )?(?:year|period|month|quarter|half|week|day)\b.*"
_KEPT_THEN = r"(?:balances?|position|cash|stock|value|headcount|total)"
_MONTH = (
    r"(?:jan(?:uary)?|feb(?:ruary)?|mar(?:ch)?|apr(?:il)?|may|june?|july?|aug(?:ust)?|sept?(?:ember)?|oct(?:ober)?|"
    r"nov(?:ember)?|dec(?:ember)?)"
)
_AT_FIRST = rf".*\b(?:at|on) (?:1(?:st)? {_MONTH}|{_MONTH} 1(?:st)?)\b.*"
_AT_LAST = rf".*\b(?:at|on) (?:(?:28|29|30|31)(?:th|st)? {_MONTH}|{_MONTH} (?:28|29|30|31)(?:th|st)?)\b.*"
_OPENING = (
    rf"{_AT_FIRST}|"
    rf"(?:opening|beginning|initial|starting|(?:start|begin) {_KEPT_THEN})\b.*|(?:.* )?(?:brought forward|b/f|b/fwd)|"
    rf"(?:the )?(?:start|begin){_SPAN}|.*\bat (?:the )?(?:start|beginning)\b.*|"
    rf".*(?:,| [-–—]) (?:start|beginning)(?: {_OF_A_SPAN})?|anfangs\w*|(?:solde|saldo|stock) in[ia]cial?[el]?|"
    r"(?:solde|saldo|stock) (?:initial|inicial|iniziale)|(?:start|begin|åpnings|ingående )\s?sald[oi]|beginsaldo|"
    r"ingående balans|inngående balanse"
)
_CLOSES = r"closing(?! (?:costs?|fees?|sales?|entr(?:y|ies)|adjustments?|journals?)\b)\b.*"
_CARRIED = (
    r"(?:.* )?(?:carried forward|c/f|c/fwd)|endbestand|endsaldo|(?:solde|saldo|stock) final[e]?|eindsaldo|"
    r"utgående balans[e]?"
)
_CLOSING = (
    rf"{_AT_LAST}|{_CLOSES}|(?:ending|final|end {_KEPT_THEN})\b.*|(?:the )?end{_SPAN}|.*\bat (?:the )?end\b.*|"
    rf".*(?:,| [-–—]) end(?: {_OF_A_SPAN})?|{_CARRIED}"
)
# What can hardly be a line beside others, as 'Final payment' is.
_END = rf"(?:the )?end{_SPAN}|end {_KEPT_THEN}\b.*|{_CLOSES}|{_CARRIED}"
_REMAINDER = (
    r"(?:(?:amounts?|balance|budget|funds?|cash|still|grant|total) )?(?:remaining|remainder|left|available|unspent|"
    r"unused|uncommitted|unallocated|outstanding|headroom|to (?:go|spend))(?: (?:budget|balance|amount|funds?))?|"
    r"balance|rest(?:budget|betrag)?|verfügbar|übrig|restant|reste(?: à .*)?|disponible|restante|resterend|kvar|"
    r"tilgjengelig"
)
_BALANCE = (
    r"(?:opening|beginning|starting|closing|ending) (?:bank )?balances?(?: .*)?|"
    r"balances? (?:brought|carried) (?:forward|down)|(?:balances? )?[bc]/[fd](?:wd)?|(?:brought|carried) forward|"
    r"anfangsbestand|anfangssaldo|endbestand|endsaldo|saldovortrag|"
    r"(?:solde|saldo) (?:initial|inicial|iniziale|final[e]?)|"
    r"solde reporté|report à nouveau|beginsaldo|eindsaldo"
)
_TIME = (  # a year, a part of one, a day
    r"\b(?:(?:fy\s?)?(?:19|20)\d\d(?:[/-]\d\d(?:\d\d)?)?|[fc]y\s?['’]?\d\d(?:[/-]\d\d)?|q[1-4]|h[12]|"
    rf"(?:at )?(?:\d{{1,2}} )?{_MONTH})\b"
)
_AT_A_DAY = r"(?P<of>.*?)\s*\bat (?:the )?(?:start\b.*|beginning\b.*|end\b.*|\d{1,2} [^\W\d]{3,9}\b.*)"
_SIDE_WORDS = frozenset(
    (*ACTUAL_WORDS, *PLANNED_WORDS, *("forecasted", "prior", "previous", "last", "this", "current"))
)


@cache
def _any_name() -> re.Pattern[str]:
    """What a name in small letters is like that says something, by what it says; the first that holds counts."""
    said = {
        Naming.RATIO: _RATIO,
        Naming.RESULT: _RESULT,
        Naming.TOTAL: _WITH_TOTAL,
        Naming.WHOLE: f"{_WHOLE}|{_SEGMENT}",
        Naming.GROUP: _GROUP,
    }
    return re.compile("|".join(f"(?P<{naming.value}>{pattern})" for naming, pattern in said.items()))


@cache
def naming(label: str) -> Naming:
    """What a label says that its line is.

    >>> [naming(one).value for one in ("Gross margin", "Gross margin %", "Total costs", "Loss on disposal", "Fuel")]
    ['result', 'ratio', 'total', 'none', 'none']
    >>> [naming(one).value for one in ("C. Result (A-B)", "1. Fares", "A. Income")]
    ['result', 'none', 'group']
    >>> [naming(one).value for one in ("total_sales", "SumUp", "Total funds brought forward")]
    ['total', 'none', 'none']
    """
    text = " ".join(_words(label).replace("(", " (").split()).strip(" :.=–-").casefold()
    text = re.sub(_FORMULA, "", re.sub(_ENUMERATOR, "", text)).strip() or text
    said = _any_name().fullmatch(text)
    if said is None or said.lastgroup is None:
        return Naming.NONE
    found = Naming(said.lastgroup)
    if found is Naming.TOTAL and _is(_OPENING, text):  # 'Total funds brought forward' is what others are added to
        return Naming.NONE
    return found


def speaks_of_variance(heading: str) -> bool:
    """Whether a heading is that of a column of differences: 'Variance', 'Diff.', 'Abw.'."""
    return re.search(_VARIANCE, spelled_out(heading), re.IGNORECASE) is not None


def speaks_of_side(label: str) -> bool:
    """Whether a label names a scenario: 'North actual'."""
    return not {*ACTUAL_WORDS, *PLANNED_WORDS}.isdisjoint(label.casefold().split())


def namings(labels: Sequence[str]) -> list[Naming]:
    """What each of a list's names says; the last is a closing where the first is its opening, and none between alike.

    >>> [one.value for one in namings(["Sales 2024", "New routes", "Sales 2025"])]
    ['none', 'none', 'closing']
    """
    found = [naming(name) for name in labels]
    if len(labels) > 2:
        first, *between, last = labels
        # `Summer 2025`, `Winter 2025/26`, `Summer 2026` are periods.
        are_periods = len(between) == 1 and _without_side(between[0]) != between[0].casefold().split()
        is_alike = are_ends(first, last) and not are_periods and not any(are_ends(first, name) for name in between)
        if is_alike or (is_opening_name(first) and is_closing_name(last)):
            found[0], found[-1] = Naming.NONE, Naming.CLOSING
        elif found[-1] is Naming.NONE and _is(_END, last.strip()):
            found[-1] = Naming.TOTAL  # of a list that began with nothing
    begun: dict[str, int] = {}  # of several blocks, as of cost and depreciation, each from one day to another
    for place, label in enumerate(labels):
        if at := re.fullmatch(_AT_A_DAY, label.strip(), re.IGNORECASE):
            start = begun.pop(at["of"].casefold(), None)
            if start is None or place - start < 2:
                begun[at["of"].casefold()] = place
            else:
                found[start], found[place] = Naming.NONE, Naming.CLOSING
    return found


def _is(pattern: str, text: str) -> bool:
    """Whether a whole text is as a pattern has it; patterns are compiled where they are first asked for."""
    return re.fullmatch(pattern, _words(text), re.IGNORECASE) is not None


def _words(label: str) -> str:
    """The words of `total_sales`; one that is written as one may be a firm's, such as SumUp."""
    return label.replace("_", " ")


def is_whole_name(label: str) -> bool:
    """Whether a label is hardly that of one among others, but of them all: 'Group', 'Network'."""
    return _is(_WHOLE, label.strip())


def is_named_total(label: str) -> bool:
    """Whether a label is that of a result, or of a total of common words.

    >>> [is_named_total(one) for one in ("Gross profit", "Total costs", "Total Marine", "Fuel")]
    [True, True, False, False]
    """
    found = naming(label)
    return found is Naming.RESULT or (found is Naming.TOTAL and is_plain_total(label))


def is_total_name(label: str) -> bool:
    """Whether a label is the name of a total and nothing else: 'Total', 'Subtotal'.

    >>> [is_total_name(one) for one in ("Grand total", "Tot.", "Σ", "Razem", "合計", "Total Marine", "Tottenham")]
    [True, True, True, True, True, False, False]
    """
    return _is(_TOTAL, label.strip(" :.=–-"))


def is_plain_total(label: str) -> bool:
    """Whether what stands beside a total's name is a common word, and no proper name.

    >>> [is_plain_total(one) for one in ("Total", "Total expenses", "Total Income", "Total Marine")]
    [True, True, True, False]
    """
    rest = without_total_name(label)
    is_known = _is(_GROUP, rest) or rest.casefold() in _OF_BALANCE or _is(_ALL, rest)
    return is_total_name(label) or rest == rest.lower() or is_known


def is_strong_result(label: str) -> bool:
    """Whether a result's name can hardly be that of a line: 'Gross margin', not 'Net interest'."""
    is_net = re.match(
        r"net\s+(?!profit|income|result|loss|margin|surplus|earnings|cash)", label.strip(), re.IGNORECASE
    )
    return naming(label) is Naming.RESULT and is_net is None


def may_be_result(label: str) -> bool:
    """Whether a label may be that of what is left of other lines, or of one of them.

    >>> [may_be_result(one) for one in ("Contract margin", "Net farm income", "Excess of income over costs", "Fuel")]
    [True, True, True, False]
    """
    return _is(_MAY_BE_RESULT, label.strip(" :.=–-")) and not is_kept(label)


def is_kept(label: str) -> bool:
    """Whether a label is that of what was kept of earlier results: 'Retained earnings', 'Reserves'."""
    return _is(_KEPT, label.strip())


def may_be_group(label: str) -> bool:
    """Whether a label may be that of the total of several lines, or of one.

    >>> [may_be_group(one) for one in ("Revenue", "Staff costs", "Sales North", "Fuel")]
    [True, True, False, False]
    """
    return (
        naming(label) is Naming.GROUP or re.fullmatch(rf".*\s(?:{_GROUP})", label.strip(), re.IGNORECASE) is not None
    )


def speaks_of_total(label: str) -> bool:
    """Whether a label has the name of a total in it: 'Total income'."""
    return re.search(_TOTAL_WITHIN, _words(label), re.IGNORECASE) is not None


def without_total_name(label: str) -> str:
    """What a label says beside: of 'Total income', 'income'."""
    return " ".join(re.sub(_TOTAL_WITHIN, "", _words(label), flags=re.IGNORECASE).split())


def is_part_name(label: str) -> bool:
    """Whether a label says that its line counts with one above it, or with none at all: 'of which diesel', 'Memo: …'.

    >>> [is_part_name(one) for one in ("of which diesel", "- davon Miete", "Memo: grants", "Whichford")]
    [True, True, True, False]
    """
    return re.match(_PART, label.strip(), re.IGNORECASE) is not None or is_memo_name(label)


def is_set_in(label: str) -> bool:
    """Whether a name is set in by a dash or a dot before it, as that of a part below its whole: '- cars'.

    >>> [is_set_in(one) for one in ("- cars", "•foot", "-5", "- none -")]
    [True, True, False, False]
    """
    return re.match(SET_IN, label) is not None


def is_memo_name(label: str) -> bool:
    """Whether a label says that its line is shown beside the others and counts with none: 'Memo: grants'."""
    return re.match(_MEMO, label.strip(), re.IGNORECASE) is not None


def is_opening_name(label: str) -> bool:
    """Whether a row so named is what a list starts from."""
    return _is(_OPENING, label.strip())


def is_remainder_name(label: str) -> bool:
    """Whether a row so named is what others leave of a first one.

    >>> [is_remainder_name(one) for one in ("Remaining", "Budget left", "Available", "Left bank", "Amount unspent")]
    [True, True, True, False, True]
    """
    return _is(_REMAINDER, label.strip())


def is_closing_name(label: str) -> bool:
    """Whether a row so named is what a list comes to."""
    return _is(_CLOSING, label.strip())


def is_of_a_day(label: str) -> bool:
    """Whether a row so named is of the first or the last day of a month: 'Cash at 1 Jan', 'Balance as at 31 May 2026'.

    >>> [is_of_a_day(one) for one in ("Cash at 1 Jan", "Balance as at 31 May 2026", "Sales on 12 May")]
    [True, True, False]
    """
    return _is(f"{_AT_FIRST}|{_AT_LAST}", label.strip())


def is_balance_name(label: str) -> bool:
    """Whether a row so named among movements says what they start from or come to: 'Balance b/f'.

    >>> [is_balance_name(one) for one in ("Opening balance", "Balance brought forward", "Balance sheet fee")]
    [True, True, False]
    """
    return _is(_BALANCE, label.strip())


def are_ends(first: str, last: str) -> bool:
    """Whether two names are alike but for their time or side, as what a list starts from and comes to are.

    >>> are_ends("Sales 2024", "Sales 2025"), are_ends("Cash at 1 Jan", "Cash at 31 Dec"), are_ends("Crew", "Fuel")
    (True, True, False)
    """
    if first.casefold() == last.casefold():
        return False
    one, other = (_without_side(name) for name in (first, last))
    return one == other and len(one) < len(first.split()) and len(other) < len(last.split())


def part_of_year(label: str) -> str:
    """Which part of a year a label is of that says nothing else; empty of any other.

    >>> [part_of_year(one) for one in ("Q3", "H1", "March", "2026", "Actual", "March sales")]
    ['q', 'h', 'month', '', '', '']
    """
    text = label.strip().casefold()
    if not text or re.sub(_TIME, "", text).strip() or re.search(r"\d{4}", text):
        return ""
    return text[0] if text[1:].isdigit() else "month"


def _without_side(name: str) -> list[str]:
    return [word for word in re.sub(_TIME, " ", name.casefold()).split() if word not in _SIDE_WORDS]
