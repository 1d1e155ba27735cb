"""Names that take from one another: refunds from sales, payments from receipts."""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence


def _pairs(*pairs: tuple[str, str]) -> tuple[tuple[frozenset[str], frozenset[str]], ...]:
    return tuple((frozenset(plus.split()), frozenset(minus.split())) for plus, minus in pairs)


# What is known by itself to take from the other, where a column says nothing else.
_TAKEN_OFF = _pairs(
    ("sale sales order orders booking bookings", "refund refunds return returns cancellation cancellations"),
    ("receipt receipts", "payment payments"), ("inflow inflows", "outflow outflows"),
    ("deposit deposits", "withdrawal withdrawals"),
    ("joiner joiners hire hires starter starters", "leaver leavers exit exits termination terminations"),
    ("addition additions acquisition acquisitions", "disposal disposals retirement retirements"),
    ("gain gains profit profits", "loss losses"), ("earned", "spent redeemed expired"), ("+", "- −"),
    ("increase increases rise rises plus", "decrease decreases fall falls minus"),
    ("favourable favorable fav", "adverse unfavourable unfavorable unfav adv"),
)  # fmt: skip
_STANDING = {"total", "subtotal", "opening", "closing", "start", "end"}  # of bars that do not move
# Of which it depends on the question.
_ASKED = _pairs(
    ("in", "out"), ("positive", "negative"), ("purchase purchases buy", "sale sales sell"),
    ("invoice invoices charge charges", "payment payments"),
    ("asset assets", "liability liabilities equity"), ("revenue sales", "discount discounts rebate rebates"),
)  # fmt: skip

# The two columns of a journal or of an account, of which the second takes from the first.
DEBITS_AND_CREDITS = (("debit", "credit"), ("dr", "cr"), ("soll", "haben"), ("débit", "crédit"), ("debe", "haber"))
UP_AND_DOWN = (("increase", "decrease"), ("rise", "fall"), ("up", "down"), ("positive", "negative"))
IN_AND_OUT = (
    *(("paid in", "paid out"), ("money in", "money out"), ("cash in", "cash out"), ("received", "paid")),
    *(("receipts", "payments"), ("deposits", "withdrawals"), ("eingang", "ausgang"), ("einnahmen", "ausgaben")),
)
_BESIDE = tuple((frozenset({plus}), frozenset({minus})) for plus, minus in (*DEBITS_AND_CREDITS, *IN_AND_OUT))

# 'Less: returns', 'Less returns', '(-) Returns'; not 'Less than a year'.
_LESS = re.compile(
    r"(?:less|deduct|minus|abzüglich|abzgl\.?|moins|menos|meno|à déduire)"
    r"(?:\s*[:–—-]\s*|\s+(?!than\b|developed\b))\S.*|"
    r"\([-–−]\)\s*\S.*",
    re.IGNORECASE,
)


def taken_off(names: Collection[str]) -> frozenset[str]:
    """Those of a column's names, in small letters, that take from the others, where it says but what stands.

    >>> sorted(taken_off({"sale", "refund"})), taken_off({"deposit", "payment"})
    (['refund'], frozenset())
    >>> sorted(taken_off({"total", "increase", "decrease"}))
    ['decrease']
    """
    moves = {*names} - _STANDING
    found = (minus & moves for plus, minus in _TAKEN_OFF if moves <= plus | minus)
    return next((one for one in found if 0 < len(one) < len(moves)), frozenset())


def may_be_taken_off(names: Collection[str]) -> bool:
    """Whether names, in small letters, could be some of such a column's."""
    return any({*names} - _STANDING <= plus | minus for plus, minus in _TAKEN_OFF)


def opposed(names: Sequence[str], *, alone: bool = True) -> tuple[str, ...] | None:
    """A name, and those that take from it, or the first of them.

    Parameters
    ----------
    alone : where there are no names beside them, and it depends on the question what they come to.

    >>> opposed(["Payment", "Invoice"]), opposed(["Purchase", "Sale", "Lease"])
    (('Invoice', 'Payment'), None)
    >>> opposed(["Receipts", "Other", "Payments"], alone=False)
    ('Receipts', 'Payments')
    >>> opposed(["Gross sales", "Less: returns"], alone=False)
    ('Gross sales', 'Less: returns')
    """
    if not alone and (less_of := [one for one in names if _LESS.fullmatch(one.strip())]):
        others = [one for one in names if one not in less_of]
        return (others[0], *less_of) if others else None
    plain = {one.strip().casefold(): one for one in names}
    for plus, minus in _ASKED if alone else (*_BESIDE, *_TAKEN_OFF, *_ASKED):
        more, less = plain.keys() & plus, plain.keys() & minus
        if more and less and (not alone or plain.keys() <= plus | minus):
            return plain[min(more)], plain[min(less)]
    return None
