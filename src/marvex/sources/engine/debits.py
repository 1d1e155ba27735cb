"""Amounts that are all positive, and a column that says which of them are credits: those count as negative."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence

from marvex.core.errors import Mistake, setting
from marvex.core.structure.opposite_names import may_be_taken_off, taken_off
from marvex.core.values import dataclass
from marvex.sources import cells
from marvex.sources.engine.connection import Engine
from marvex.sources.engine.query import Query
from marvex.sources.engine.typed_columns import AS_IT_IS, Typed
from marvex.sources.quoting import quoted_name, quoted_text
from marvex.sources.roles import Roles

# What such a column says of a debit, and of a credit.
_SIDES = (
    ("d", "c"), ("dr", "cr"), ("db", "cr"), ("debit", "credit"), ("debits", "credits"), ("s", "h"), ("soll", "haben"),
    ("d", "h"), ("debe", "haber"), ("débit", "crédit"), ("dare", "avere"), ("debet", "credit"), ("debet", "kredit"),
)  # fmt: skip
_PLAIN = {("dr", "cr"), ("db", "cr"), ("soll", "haben"), ("debe", "haber"), ("dare", "avere")}
# Its heading, where what it says might be a deck or a kind of card.
_HEADING = re.compile(
    r"(?:dr?|debits?|débit|s(?:oll)?|dare|debet|debe) ?(?:/|-|\||or|_)? ?"
    r"(?:cr?|credits?|crédit|h(?:aben|aber)?|avere|kredit)(?:[ _-].*)?|"
    r"(?:sign|side|entry|entry type|posting type|balance type|(?:.*[ _-])?indicator|shkzg)",
    re.IGNORECASE,
)
# Keys of postings, by their numbers: of customers, of suppliers, of the ledger, of assets and of stock.
_POSTING_KEY = re.compile(r"posting[ _-]?key|buchungsschlüssel|clé de comptabilisation", re.IGNORECASE)
_DEBIT_KEY = re.compile(r"0\d|2\d|40|70|8\d")
_CREDIT_KEY = re.compile(r"1\d|3\d|50|75|9\d")
_TYPE = re.compile(
    r"(?:(?:document|doc|transaction|trans|invoice|voucher|entry)[ _-]?)?(?:type|kind)|belegart|type de pièce|tipo",
    re.IGNORECASE,
)
_CREDIT_NOTE = re.compile(
    r"credit[ _-]?(?:notes?|memos?)|refunds?|gutschrift(?:en)?|avoirs?|nota di credito|nota de crédito",
    re.IGNORECASE,
)
FEW_TYPES = 20  # of documents
_MOST = 0.9  # of the amounts of either side, which are positive


@dataclass(frozen=True, slots=True)
class Credits:
    """The column that says which amounts are credits, and what it says of them, in small letters and as written."""

    column: str
    credits: frozenset[str]
    called: str
    is_by_words: bool = False  # no convention says so, but what the words mean

    @property
    def sql(self) -> str:
        texts = ", ".join(map(quoted_text, sorted(self.credits)))
        return f"lower(trim(CAST({quoted_name(self.column)} AS VARCHAR), ' .')) IN ({texts})"


def credits_of(
    headings: Sequence[str], sample: Sequence[Sequence[str | None]], roles: Roles, values: Callable[[str], list[str]]
) -> Credits | None:
    """The column of a table that says which amounts are debits and which are credits, if one does.

    Parameters
    ----------
    values : gives all different values of a column.
    """
    taken = roles.taken
    for place, heading in enumerate(headings):
        some = {_bare(text) for row in sample if (text := row[place])}
        is_type = _TYPE.fullmatch(heading.strip()) is not None and len(some) <= FEW_TYPES
        could_be = any(some <= set(sides) for sides in _SIDES) or may_be_taken_off(some)
        is_key = _POSTING_KEY.fullmatch(heading.strip()) is not None
        if heading in taken or not some or not (is_type or could_be or is_key):
            continue
        called = {_bare(text): text for text in values(heading)}
        if is_key and (keys := frozenset(filter(_CREDIT_KEY.fullmatch, called))):
            if all(one in keys or _DEBIT_KEY.fullmatch(one) for one in called) and len(keys) < len(called):
                return Credits(heading, keys, called[min(keys)])
            continue
        sides = next((one for one in _SIDES if called.keys() == set(one)), None)
        if sides is not None and (sides in _PLAIN or _HEADING.fullmatch(heading.strip())):
            return Credits(heading, frozenset(sides[1:]), called[sides[1]])
        if less := taken_off(called):
            return Credits(heading, less, called[min(less)], is_by_words=True)
        notes = frozenset(one for one in called if _CREDIT_NOTE.fullmatch(one)) if is_type else frozenset()
        if notes and len(notes) < len(called):
            return Credits(heading, notes, called[min(notes)])
    return None


def _bare(text: str) -> str:
    return text.strip(" .").casefold()


def with_credits_turned(
    relation: str, credit: Credits, roles: Roles, typed: Mapping[str, Typed], engine: Engine, source: str
) -> str | None:
    """The relation with the amounts of credits as negative; None where they are signed already.

    Raises Mistake where some are, and some are not.
    """
    negative = [_is_negative(one.name, typed) for one in roles.amounts]
    filled = [f"NOT {cells.is_nothing(f'CAST({quoted_name(one.name)} AS VARCHAR)')}" for one in roles.amounts]
    counts = ", ".join(
        f"count(*) FILTER ({a} AND {side}), count(*) FILTER ({a} AND {side} AND {n})"
        for a, n in zip(filled, negative, strict=True)
        for side in (f"NOT ({credit.sql})", credit.sql)
    )
    told = [int(one) for one in engine.rows(Query(f"SELECT {counts} FROM {relation}"), source)[0]]
    debits, turned_debits, all_credits, turned = (sum(told[at::4]) for at in range(4))
    if turned > _MOST * all_credits or turned_debits > _MOST * debits:
        return None
    if turned > (1 - _MOST) * all_credits:
        raise Mistake(
            f"{source}: of the amounts that {credit.column} calls {credit.called}, {turned} are negative and "
            f"{all_credits - turned} positive",
            f"Sign them alike, or keep one side with {setting('where', f'{credit.column}={credit.called}')}.",
        )
    names = [one.name for one in roles.amounts]
    binary = {name for name in names if name in typed and typed[name].largest is not None}
    turned_as = {name: _turned(quoted_name(name)) for name in names if name not in typed or name in binary}
    replaced = ", ".join(
        f"CASE WHEN {credit.sql} THEN {turned_as.get(name, f'-{quoted_name(name)}')} ELSE {quoted_name(name)} END "
        f"AS {quoted_name(name)}"
        for name in (*names, *(AS_IT_IS + name for name in names if name in binary))
    )
    return f"(SELECT * REPLACE ({replaced}) FROM {relation})"


def check_stored(credit: Credits, headings: Sequence[str], sample: Sequence[Sequence[str | None]], name: str) -> None:
    """Raises Mistake where the first rows of a table that is added up elsewhere have credits that are positive.

    Parameters
    ----------
    name : of the column of amounts.
    """
    place, side = headings.index(name), headings.index(credit.column)
    amounts = [text for row in sample if (text := row[place]) and _bare(row[side] or "") in credit.credits]
    if any(not text.startswith("-") for text in amounts):
        raise Mistake(
            f"{name} is positive where {credit.column} is {credit.called}, and credits would be added to debits",
            f"Sign them in a query, and name that with {setting('query', 'FILE.sql')}.",
        )


def _is_negative(name: str, typed: Mapping[str, Typed]) -> str:
    own = quoted_name(name)
    return (
        f"({own} < 0)"
        if name in typed and typed[name].largest is None
        else f"regexp_matches({own}, '^\\s*[-−–(]|-\\s*$')"
    )


def _turned(own: str) -> str:
    """The text of an amount with the other sign: `-5` and `(5)` of `5`."""
    plain = f"trim(replace(replace({own}, '−', '-'), '–', '-'))"
    return (
        f"CASE WHEN {plain} LIKE '-%' THEN substr({plain}, 2) WHEN {plain} LIKE '(%)' THEN {plain}[2:-2] "
        f"WHEN {plain} LIKE '%-' THEN {plain}[:-2] WHEN {plain} = '' THEN NULL ELSE '-' || {plain} END"
    )
