"""The words that say of which scenario a figure is: whole, shortened, and with what stands beside them."""

from __future__ import annotations

import re
from collections.abc import Collection

from marvex.core.values import dataclass
from marvex.core.words.names_alike import without_small_marks
from marvex.core.words.spelled_out import spelled_out

# The names of scenarios, and the headings of columns, that say which side they are: the current one first.
ACTUAL_WORDS = (
    *("actual", "actuals", "outturn", "ist", "réel", "réalisé", "reale", "consuntivo", "realizado", "ejecutado"),
    *("werkelijk", "realisatie", "realisiert", "faktisk", "realiseret", "utfall", "toteuma", "wykonanie"),
    *("skutečnost", "факт", "gerçekleşen", "実績", "实际", "實際", "실적"),
)
_SPANS = ("month", "quarter", "period", "week")
ACTUAL_NAMES = (
    *(*ACTUAL_WORDS, "this year", "current year", "current", "cy", "ty", "laufendes jahr", "当期", "本年"),
    *(f"{which} {span}" for span in _SPANS for which in ("this", "current")),
    *(f"{which} {what}" for which in ("current year", "this year", "cy", "ty") for what in ("actual", "actuals")),
    *("curr yr", "current yr", "this yr"),
)
PLANNED_WORDS = (
    *("budget", "plan", "forecast", "planned", "budgeted", "target", "quota", "estimate", "estimated"),
    *("soll", "begroting", "begroot", "presupuesto", "presupuestado", "budgété", "preventivo", "orçado"),
    *("orçamento", "budsjett", "budjetti"),
    *("prévu", "prévisionnel", "prognose", "hochrechnung", "previsión", "previsione", "prognos", "ennuste"),
    *("budżet", "rozpočet", "бюджет", "план", "bütçe", "予算", "預算", "预算", "예산", "計画", "计划"),
)
PRIOR_NAMES = (
    *("last year", "prior year", "previous year", "previous", "prior", "py", "ly", "vorjahr", "vj", "n-1"),
    *("année précédente", "exercice précédent", "año anterior", "ejercicio anterior", "ano anterior"),
    *("anno precedente", "vorig jaar", "前期", "前年", "上年"),
    *(f"{which} {span}" for span in _SPANS for which in ("last", "prior", "previous")),
    *(
        f"{which} {what}"
        for which in ("last year", "prior year", "previous year", "py", "ly")
        for what in ("actual", "actuals")
    ),
    *("prev yr", "prior yr", "previous yr", "last yr"),
)
BASE_NAMES = (*PLANNED_WORDS, *PRIOR_NAMES)  # in the order in which they are taken for the base

_DOUBTFUL = frozenset({"target", "quota", "estimate", "estimated"})  # which rows are that are no plan, too
# What is short for one of these; it says so only where it stands alone, or beside a period or a version.
_SHORT = {
    **dict.fromkeys(("act", "acts", "real"), ACTUAL_WORDS[0]),
    **dict.fromkeys(("bud", "budg", "bdgt", "bgt", "bdg", "budgets"), "budget"),
    **dict.fromkeys(("fc", "fcst", "fcast", "f'cast", "forecasts", "reforecast", "rf", "le", "outlook"), "forecast"),
    **dict.fromkeys(("est",), "estimate"),
    **dict.fromkeys(("tgt", "targets"), "target"),
    **dict.fromkeys(("pln", "plans"), "plan"),
}
# Those of them that hardly mean anything else.
ABBREVIATIONS = frozenset(_SHORT).difference(("real", "le", "outlook", "plans", "targets"))
# Other forms of a word, for the very same; a reforecast is no other form of a forecast.
_FORMS = {
    **{one: word for one, word in _SHORT.items() if one not in ("real", "reforecast", "rf", "le", "outlook")},
    **{"actuals": "actual", "budgeted": "budget", "planned": "plan", "estimated": "estimate"},
}
# Which of several budgets a word beside one says it is.
_WHICH = (
    r"revised|rev|latest|updated|new|original|orig|initial|approved|final|rebased|amended|adjusted|adj|flexed|"
    r"v\.? ?\d+(?:\.\d+)?|\d{1,2}\+\d{1,2}"
)
# That, or of what span: `Original budget`, `Budget v2`, `FY25 Actual`, `Forecast 3+9`, `RF1`.
_BESIDE = (
    rf"{_WHICH}|\d+(?:\.\d+)?|v|ver|vers|version|first|last|current|old|agreed|board|working|draft|rolling|"
    r"annual|full|year|yr|fy|fy\d+|cy|ty|this|[qh][1-4]"
)
_NUMBERED = re.compile(r"([a-z]+?)(\d+)")  # `RF2`, `FC1`, `Budget2`
_MONTHS_KNOWN = re.compile(r"(\d{1,2})\+(\d{1,2})")  # `8+4`: eight months of actuals, and four that are forecast


@dataclass(frozen=True, slots=True)
class VersionSaid:
    """What a name says of a scenario: the word for it as it is usually written, and what else it says, if anything."""

    word: str
    rest: str

    @property
    def is_actual(self) -> bool:
        return self.word == ACTUAL_WORDS[0]


def version_said(name: str | None) -> VersionSaid | None:
    """The scenario that a name says, or None where it says none.

    >>> version_said("BUD"), version_said("Revised budget v2")
    (VersionSaid(word='budget', rest=''), VersionSaid(word='budget', rest=''))
    >>> version_said("Planned costs"), version_said("RF2"), version_said("Act of God")
    (VersionSaid(word='planned', rest='costs'), VersionSaid(word='forecast', rest=''), None)
    >>> version_said("8+4"), version_said("2+2")
    (VersionSaid(word='forecast', rest=''), None)
    """
    text = spelled_out(name or "").casefold()
    if text in PRIOR_NAMES:
        return VersionSaid(text, "")
    if text in ACTUAL_NAMES:
        return VersionSaid(ACTUAL_WORDS[0], "")
    if (months := _MONTHS_KNOWN.fullmatch(text)) and sum(map(int, months.groups())) == 12:
        return VersionSaid("forecast", "")
    words = [one for one in re.split(r"[\s/.,():–-]+", text) if one]
    said = [one for one in words if one in ACTUAL_WORDS or one in PLANNED_WORDS]
    rest = [one for one in words if one not in said and re.fullmatch(_BESIDE, one) is None]
    if len(said) == 1:
        return VersionSaid(ACTUAL_WORDS[0] if said[0] in ACTUAL_WORDS else said[0], " ".join(rest))
    if said or len(rest) != 1:
        return None
    numbered = _NUMBERED.fullmatch(rest[0])
    word = numbered[1] if numbered else rest[0]
    if word in ACTUAL_WORDS or word in PLANNED_WORDS:
        return VersionSaid(ACTUAL_WORDS[0] if word in ACTUAL_WORDS else word, "")
    return VersionSaid(_SHORT[word], "") if word in _SHORT else None


def scenario_meant(name: str | None) -> str:
    """What two names of one scenario have in common, whatever their case, blanks and form.

    >>> scenario_meant("Actuals ") == scenario_meant("ACT"), scenario_meant("Budget") == scenario_meant("Budget 2")
    (True, False)
    """
    text = without_small_marks(name or "").rstrip(".")
    return _FORMS.get(text, text)


def says_which(text: str) -> bool:
    """Whether what stands beside a scenario says which of several versions of it is meant: 'Revised', 'v2'."""
    return re.fullmatch(rf"\(?(?:{_WHICH})\.?\)?", text, re.IGNORECASE) is not None


def says_planned(name: str | None) -> bool:
    """Whether a name says a budget, a plan or the like, and nothing else."""
    said = version_said(name)
    return said is not None and not said.rest and said.word in PLANNED_WORDS


def is_planned(name: str | None) -> bool:
    """Whether a name begins with a budget, a plan or the like, or says one and nothing else."""
    return (name or "").casefold().startswith(PLANNED_WORDS) or says_planned(name)


def are_versions(names: Collection[str]) -> bool:
    """Whether names beside one another are versions of the same numbers: one is of actuals and another of a plan.

    Beside names that are none, only words count that hardly mean anything else: customers are current or targets, too.

    >>> are_versions(["ACT", "BUD"]), are_versions(["Fares actual", "Fuel budget"]), are_versions(["ACT", "NSW"])
    (True, False, False)
    >>> are_versions(["Actual", "Budget", "Encumbrance"]), are_versions(["Current", "Target", "Lapsed"])
    (True, False)
    """
    found = {one: version_said(one) for one in names}
    said = {one: its for one, its in found.items() if its is not None}
    if len(said) < len(found):
        weak = {*ACTUAL_NAMES, "real"} - {*ACTUAL_WORDS}
        said = {one: its for one, its in said.items() if one.casefold() not in weak and its.word not in _DOUBTFUL}
    both = any(its.is_actual for its in said.values()) and any(its.word in PLANNED_WORDS for its in said.values())
    return both and len({its.rest for its in said.values() if its.rest}) < 2
