"""What the name of a line says of costs."""

from __future__ import annotations

import re

_COST = re.compile(
    r"\b(?:costs?|expenses?|expenditure|overheads?|wages|salaries|payroll|people|staff|rent|tax(?:es)?|interest|"
    r"depreciation|amortisation|amortization|fees|purchases|goods sold|kosten|aufwand|aufwendungen|löhne|gehälter|"
    r"miete|steuern|charges|achats|salaires|loyers?|impôts?|gastos|costes|salarios|costi|spese|imposte|lasten|"
    r"omkostninger|kostnader|utgifter|custos|despesas)\b|kosten\b|aufwand\b",
    re.IGNORECASE,
)


def speaks_of_cost(label: str) -> bool:
    """Whether a label speaks of a cost: 'Staff costs', 'Rent'."""
    return _COST.search(label) is not None
