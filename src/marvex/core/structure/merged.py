"""Statements that were found, with other names for their lines, and one of several: the same totals, of more lines."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from marvex.core.errors import Mistake, setting
from marvex.core.structure.statement import Statement, StatementLine


def merged(found: Sequence[tuple[str, Statement]]) -> list[Statement]:
    """Each statement with the lines of all, in the order of the first; how each stores its amounts is its own.

    A line that one lacks counts in the totals in which the others have it. Subtotals that are in the first alone stay,
    those of others alone are left out, since their lines count in what they count in.

    Parameters
    ----------
    found : each with the name of the source in which it was found, for messages; two may have the same.

    Raises Mistake where a name is of another kind in one of them, a line counts elsewhere, or the results differ.
    """
    (first, whole), *others = found
    for name, other in others:
        whole = _with(whole, other, f"{first} and {name} are two statements")
    return [_stored_as(whole, own) for _, own in found]


def relabelled(statement: Statement, names: Mapping[str, str], source: str) -> Statement:
    """The statement with some of its lines called otherwise; lines that are then called the same are one.

    Parameters
    ----------
    names : the name to show, by the name in the table.
    source : the table's name, for messages.

    Raises Mistake where lines of several kinds, or of several totals, would be one.
    """
    shown = {line.label: names.get(line.label, line.label) for line in statement.lines}
    groups: dict[str, list[StatementLine]] = {}
    for line in statement.lines:
        groups.setdefault(shown[line.label], []).append(line)
    for label, lines in groups.items():
        labels = {line.label for line in lines}
        is_torn = any(0 < len(labels.intersection(one.total_of)) < len(labels) for one in statement.lines)
        are_plain = (
            all(line.accounts for line in lines) and len({(line.is_cost, line.is_negative) for line in lines}) == 1
        )
        if len(lines) > 1 and (is_torn or not are_plain):
            raise Mistake(
                f"{source}: {' and '.join(sorted(labels))} would both be {label}, and do not count alike",
                f"Give them names of their own in {setting('name_map')}.",
            )

    def of(parts: Sequence[str]) -> tuple[str, ...]:
        return tuple(dict.fromkeys(shown[part] for part in parts))

    made = (
        replace(
            its[0],
            label=label,
            accounts=tuple(account for line in its for account in line.accounts),
            total_of=of(its[0].total_of),
            ratio_of=its[0].ratio_of and (shown[its[0].ratio_of[0]], shown[its[0].ratio_of[1]]),
        )
        for label, its in groups.items()
    )
    result = statement.result_label and shown[statement.result_label]
    return replace(statement, lines=tuple(made), result_label=result)


def _with(one: Statement, other: Statement, are: str) -> Statement:
    """The first statement with the lines that only the other has."""
    known, its = ({line.label: line for line in each.lines} for each in (one, other))
    if one.result is None or other.result is None or one.result.label != other.result.label:
        results = (each.result.label if each.result else "nothing" for each in (one, other))
        raise _unlike(f"{are}: the result is {' in the one, and '.join(results)} in the other")
    for label in (label for label in known if label in its):
        kinds = [_kind(line) for line in (known[label], its[label])]
        if kinds[0] != kinds[1]:
            raise _unlike(f"{are}: {label} is {kinds[0]} in the one, and {kinds[1]} in the other")
    totals = [label for label, line in known.items() if line.is_total and label in its]
    counts = {label: (_leaves(one, label), _leaves(other, label)) for label in totals}
    for label, (own, theirs) in counts.items():
        both = (leaf for leaf in {**own, **theirs} if leaf in known and leaf in its)
        if leaf := next((leaf for leaf in both if own.get(leaf, 0) != theirs.get(leaf, 0)), None):
            raise _unlike(f"{are}: {leaf} does not count in {label} in the same way")
    for label, line in its.items():
        if line.accounts and label not in known:
            holds = sorted((len(theirs), total) for total, (_, theirs) in counts.items() if label in theirs)
            one = _with_line(one, line, [total for _, total in holds])
    for line in (line for label, line in its.items() if line.ratio_of and label not in known):
        one = _with_ratio(one, line)
    for label, (_, theirs) in counts.items():
        leaves = _leaves(one, label)
        if leaf := next((leaf for leaf, count in theirs.items() if leaves.get(leaf, 0) != count), None):
            raise _unlike(f"{are}: {leaf} does not count in {label} in the same way")
    return one


def _unlike(what: str) -> Mistake:
    return Mistake(
        what,
        f"Name the lines of both with {setting('statement', 'FILE')}, or show names of one as those of the other with "
        f"{setting('name_map', 'FILE')}; {setting('statement', 'none')} takes them as plain lists.",
    )


def _kind(line: StatementLine) -> str:
    if line.ratio_of:
        return "a ratio"
    if line.is_total:
        return "a total of costs" if line.is_cost else "a total"
    return "a cost" if line.is_cost else "income"


def _leaves(statement: Statement, total: str) -> dict[str, int]:
    """The lines with amounts that count in a total, and how."""
    counts = statement.counts_in(statement.line(total))
    return {label: count for label, count in counts.items() if count and statement.line(label).accounts}


def _with_line(statement: Statement, line: StatementLine, totals: Sequence[str]) -> Statement:
    """The statement with one more line, right behind the last part of the least total that it counts in.

    Parameters
    ----------
    totals : those that it counts in, the least first; what counts in one of them needs it only there.
    """
    labels = [one.label for one in statement.lines]
    parts = statement.line(totals[0]).total_of if totals else ()
    place = max((labels.index(one) + 1 for one in parts), default=len(labels))
    lines = (*statement.lines[:place], replace(line, section=""), *statement.lines[place:])
    statement = replace(statement, lines=lines)
    for total in (one for one in totals if line.label not in _leaves(statement, one)):
        own = replace(statement.line(total), total_of=(*statement.line(total).total_of, line.label))
        statement = replace(statement, lines=tuple(own if one.label == total else one for one in statement.lines))
    return statement


def _with_ratio(statement: Statement, line: StatementLine) -> Statement:
    """The statement with one more ratio, right behind what is divided, where it has both lines of it."""
    labels = [one.label for one in statement.lines]
    if line.ratio_of is None or not set(line.ratio_of) <= set(labels):
        return statement
    place = labels.index(line.ratio_of[0]) + 1
    return replace(statement, lines=(*statement.lines[:place], line, *statement.lines[place:]))


def _stored_as(whole: Statement, own: Statement) -> Statement:
    """The whole, as the amounts of one source are stored."""
    stored = {line.label: line for line in own.lines}
    lines = (
        replace(line, accounts=its.accounts, is_negative=its.is_negative) if (its := stored.get(line.label)) else line
        for line in whole.lines
    )
    return replace(whole, name=own.name, lines=tuple(lines), is_turned=own.is_turned)
