"""Columns that bars were drawn from by hand: what rises, what falls, what is not seen, and where a bar ends.

A waterfall or a coloured bar chart of a spreadsheet is made of such columns beside its amounts. They hold the same
figures again and are no amounts of their own; where there are no others, what rises less what falls is the amount.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from decimal import Decimal
from itertools import permutations
from typing import TypeAlias

from marvex.core.exact import EXACT, ZERO, total
from marvex.core.structure.total_names import is_closing_name, is_opening_name
from marvex.core.values import dataclass
from marvex.core.words.spelled_out import spelled_out

_PAIRS = (
    *(("increase", "decrease"), ("increases", "decreases"), ("rise", "fall"), ("up", "down"), ("plus", "minus")),
    *(("positive", "negative"), ("positives", "negatives"), ("pos", "neg"), ("above", "below"), ("over", "under")),
    *(("higher", "lower"), ("green", "red"), ("favourable", "adverse"), ("favourable", "unfavourable")),
    *(("gain", "loss"), ("gains", "losses"), ("growth", "decline"), ("met", "missed"), ("good", "bad")),
)
_UNSEEN = {
    "invisible",
    "hidden",
    "transparent",
    "spacer",
    "spacing",
    "padding",
    "no fill",
    "nofill",
    "blank",
    "helper",
}
_RUNNING = {
    *("cumulative", "cumulated", "cumulative sum", "cumulative total"),
    *("running total", "running", "running sum", "running balance"),
}
_STANDING = {"ends", "end", "total", "totals", "subtotal", "subtotals", "standing"}
_BESIDE = {
    "base", "baseline", "base line", "offset", "support", "filler", "label", "labels", "label position", "marker",
    "markers", "connector", "connectors", "height", "before", "after", "start", "starts", "max", "min",
}  # fmt: skip
_OF_A_DRAWING = {"bar", "bars", "series", "column", "values", "value", "line", "stack"}
_AGAIN = {"trend", "chart", "plot", "plotted", "graph", *_OF_A_DRAWING, *(word for pair in _PAIRS for word in pair)}
_LEAST_ROWS = 3
_MOST_STALE = 0.25  # of the rows that rise or fall

_Figures: TypeAlias = Sequence[Decimal]


@dataclass(frozen=True, slots=True, kw_only=True)
class Drawn:
    """The columns that bars were drawn from.

    Parameters
    ----------
    columns : their names, in order.
    of : the amount that they are of, or both sides of it; empty where there is none beside them.
    stale : the place of the first row in which they are not what they are elsewhere, as bars are whose figures moved.
    amounts : what each row rises less what it falls, or where it stands, where there is no other amount; `said` how
        they come of the columns.
    is_running : it is one column, and holds what has been added up so far.
    """

    columns: tuple[str, ...]
    of: tuple[str, ...]
    stale: int | None = None
    amounts: tuple[Decimal, ...] = ()
    said: str = ""
    is_running: bool = False


def drawn(columns: Mapping[str, Sequence[Decimal | None]]) -> Drawn | None:
    """The columns of figures that bars were drawn from, by their names and by their figures.

    Parameters
    ----------
    columns : the figures of each column, a row each, by their names.

    >>> def told(**columns: str) -> Drawn | None:
    ...     return drawn({name: [Decimal(one) for one in text.split()] for name, text in columns.items()})
    >>> told(Amount="500 120 -90 530", Base="0 500 530 0", Up="0 120 0 0", Down="0 0 90 0").of
    ('Amount',)
    >>> one = told(Ends="500 0 0 530", Base="0 500 530 0", Rise="0 120 0 0", Fall="0 0 90 0")
    >>> one.said, [int(amount) for amount in one.amounts]
    ('Ends and Rise less Fall', [500, 120, -90, 530])
    >>> told(Red="4 3 5", Green="1 2 2", White="5 6 7"), told(Sales="4 3 5", Cumulative="4 7 12").columns
    (None, ('Cumulative',))
    """
    figures = {name: [one or ZERO for one in column] for name, column in columns.items()}
    rows = len(next(iter(figures.values()), ()))
    again = {
        name: of for name, of in _said_again(figures) if rows >= _LEAST_ROWS and _is_part(figures[name], figures[of])
    }
    found = _drawn({name: column for name, column in figures.items() if name not in again}, rows)
    if not again or (found is not None and not found.of):
        return found
    more = found or Drawn(columns=(), of=())
    own = {*again, *more.columns}
    of = dict.fromkeys((*again.values(), *more.of))
    return Drawn(columns=tuple(name for name in figures if name in own), of=tuple(of), stale=more.stale)


def _said_again(names: Iterable[str]) -> Iterator[tuple[str, str]]:
    """Each heading that is another and words of a drawing, as `Profit (gain)` is of `Profit`; and that other."""
    words = {name: frozenset(re.findall(r"\w+", _signs_spelled(name))) for name in names}
    for name, own in words.items():
        for of, others in words.items():
            if others and others < own and own - others <= _AGAIN:
                yield name, of
                break


def _is_part(column: _Figures, of: _Figures) -> bool:
    """Whether it holds nothing but figures of the other, each in its own row."""
    return any(column) and all(one in (ZERO, whole) for one, whole in zip(column, of, strict=True))


def _drawn(figures: Mapping[str, _Figures], rows: int) -> Drawn | None:
    """The columns that rise and fall by others, run on, or hold where bars begin or end."""
    plain = {name: _plain(name) for name in figures}
    pair = _pair(figures, plain) if rows > 1 else None
    if pair is None:
        return _without_pair(figures, plain) if rows >= _LEAST_ROWS else None
    up, down = (figures[name] for name in pair)
    moves = [rise or fall for rise, fall in zip(up, down, strict=True)]
    ends = [name for name, text in plain.items() if text in _STANDING and any(figures[name])]
    standing = [name for name in ends if not _meet(figures[name], moves)]
    beside = [name for name, text in plain.items() if text in _UNSEEN | _RUNNING | _BESIDE]
    drawn_of = {*pair, *standing, *beside}
    others = [name for name in figures if name not in drawn_of]
    in_order = tuple(name for name in figures if name in drawn_of)
    for of, column in _what_may_move(others, figures):
        told = [place for place, (rise, fall) in enumerate(zip(up, down, strict=True)) if rise or fall]
        wrong = [place for place in told if not _moves(column[place], up[place], down[place])]
        if 2 * len(told) >= len(column) and len(wrong) <= _MOST_STALE * len(told):
            return Drawn(columns=in_order, of=of, stale=next(iter(wrong), None))
    if others or rows < _LEAST_ROWS or not (standing or (any(up) and any(down))):
        return None
    columns_of = zip(*(figures[name] for name in standing), up, down, strict=True)
    amounts = tuple(EXACT.subtract(total(more), abs(fall)) for *more, fall in columns_of)
    stands_at = [total(row) for row in zip(*(figures[name] for name in standing), strict=True)]
    if not all(_is_reached(figures[name], *_running(amounts, stands_at)) for name in beside):
        return None  # two sides, of which they say the change
    stands = f"{' and '.join(standing)} and " if standing else ""
    return Drawn(columns=in_order, of=(), amounts=amounts, said=f"{stands}{pair[0]} less {pair[1]}")


def _plain(name: str) -> str:
    """The words of a heading that say what a column is: `Up bar`, `Var +` and `positive_series` less what all have."""
    text = _signs_spelled(name)
    return " ".join(word for word in text.split() if word not in _OF_A_DRAWING) or text


def _signs_spelled(name: str) -> str:
    text = re.sub(r"\bunfavou?rable\b", "unfavourable", spelled_out(name).casefold())
    text = re.sub(r"\bfavorable\b", "favourable", text)
    return re.sub(r"(?<!\w)\+(?!\w)", "plus", re.sub(r"(?<!\w)[-−–](?!\w)", "minus", text))


def may_be_drawn(names: Sequence[str]) -> bool:
    """Whether some of a table's headings are those of columns that bars are drawn from."""
    plain = {name: _plain(name) for name in names}
    is_named = bool(_pairs(plain)) or not (_UNSEEN | _RUNNING).isdisjoint(plain.values())
    return is_named or any(_said_again(names))


def _pair(figures: Mapping[str, _Figures], plain: Mapping[str, str]) -> tuple[str, str] | None:
    """The two columns of which one rises by its name and the other falls, where never both do in a row."""
    apart = [(up, down) for up, down in _pairs(plain) if _go_apart(figures[up], figures[down])]
    return apart[0] if len(apart) == 1 else None


def _pairs(plain: Mapping[str, str]) -> list[tuple[str, str]]:
    named = {text: name for name, text in plain.items()}
    return [
        (named[text], named[other])
        for text in named
        for up, down in _PAIRS
        if up in text.split() and (other := re.sub(rf"\b{up}\b", down, text)) in named
    ]


def _go_apart(up: _Figures, down: _Figures) -> bool:
    one_way = min(up) >= 0 and (min(down) >= 0 or max(down) <= 0)
    return one_way and (any(up) or any(down)) and not _meet(up, down)


def _meet(one: _Figures, other: _Figures) -> bool:
    return any(left and right for left, right in zip(one, other, strict=True))


def _what_may_move(
    others: Sequence[str], figures: Mapping[str, _Figures]
) -> Iterator[tuple[tuple[str, ...], _Figures]]:
    """Each column that may rise and fall by others, or be split in two by them; and what each two differ by."""
    for name in others:
        yield (name,), figures[name]
    # What an opening and a closing differ by is told in columns of their own.
    sides = [name for name in others if not (is_opening_name(name) or is_closing_name(name))]
    for one, two in permutations(sides, 2):
        yield (
            (one, two),
            [EXACT.subtract(left, right) for left, right in zip(figures[one], figures[two], strict=True)],
        )


def _moves(by: Decimal, rise: Decimal, fall: Decimal) -> bool:
    return by == rise if rise else abs(by) == abs(fall)


def _without_pair(figures: Mapping[str, _Figures], plain: Mapping[str, str]) -> Drawn | None:
    """Columns that are called a running total and are one, or hold where the bars of another begin or end."""
    for name, column in figures.items():
        before, after = _running(column)
        drawn_of = tuple(
            other
            for other, text in plain.items()
            if other != name
            and (
                (text in _RUNNING and list(figures[other]) == after)
                or (
                    text in _UNSEEN | _STANDING | _BESIDE
                    and sum(map(bool, figures[other])) > 1
                    and _is_reached(figures[other], before, after)
                )
            )
        )
        if drawn_of:
            is_running = len(drawn_of) == 1 and plain[drawn_of[0]] in _RUNNING
            return Drawn(columns=drawn_of, of=(name,), is_running=is_running)
    return None


def _running(column: _Figures, stands_at: _Figures = ()) -> tuple[list[Decimal], list[Decimal]]:
    """What has been added up before and after each row; one that stands says so, or is a last one that is just that."""
    before, after, running = [], [], ZERO
    for place, one in enumerate(column):
        before.append(running)
        is_last = place > 0 and place == len(column) - 1 and one in (running, ZERO)
        stands = bool(stands_at and stands_at[place])
        if not is_last:
            running = one if stands else EXACT.add(running, one)
        after.append(running)
    return before, after


def _is_reached(column: _Figures, before: _Figures, after: _Figures) -> bool:
    rows = zip(column, before, after, strict=True)
    return all(one in (ZERO, start, end) for one, start, end in rows)
