"""What a call says of its sources, one by one: `actual=ledger.csv`, `--amount budget=Plan`."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from marvex.core.errors import Mistake, did_you_mean, setting
from marvex.core.values import dataclass
from marvex.request.settings import WORDS_OF_SOURCE


@dataclass(frozen=True, slots=True)
class NamedSource:
    """A source, and the scenario that the whole of it holds, where the call says so."""

    scenario: str | None
    path: str


def named_sources(texts: Sequence[str]) -> tuple[NamedSource, ...]:
    """The sources of a call; raises Mistake where several are not told apart."""
    sources = tuple(named(text) for text in texts)
    names = [one.scenario for one in sources if one.scenario is not None]
    if len(sources) > 1 and len(set(names)) < len(sources):
        raise Mistake(
            "several sources need the scenario that each holds, and each another",
            "Write them as actual=ledger.csv budget=plan.xlsx.",
        )
    return sources


def named(text: str) -> NamedSource:
    """A source as a call writes it, with the scenario that it is said to hold."""
    name, sign, path = text.partition("=")
    is_name = bool(sign) and bool(name) and not Path(text).exists() and not {"/", ":"} & set(name)
    if is_name:
        return NamedSource(name, path)
    return NamedSource(None, text)


def conditions_of(values: Sequence[str], name: str | None, names: Sequence[str | None]) -> tuple[str, ...]:
    """The conditions on the rows of one source: those of all, and its own, `budget=Account=5100`."""
    found = []
    for value in values:
        prefix, sign, rest = value.partition("=")
        is_prefixed = (
            bool(sign) and prefix.strip() in [one for one in names if one] and any(one in rest for one in "=<>~")
        )
        if not is_prefixed or prefix.strip() == name:
            found.append(rest if is_prefixed else value)
    return tuple(found)


def said_of(values: Sequence[str], name: str | None, names: Sequence[str | None], field: str) -> str | None:
    """What a setting says of one source: its own `name=…`, else what is said of all."""
    own, general = [], []
    for value in values:
        prefix, sign, rest = value.partition("=")
        if sign and prefix in names:
            own += [rest] if prefix == name else []
        else:
            general.append(value)
    for several in (own, general):
        if len(several) > 1:
            raise Mistake(f"{setting(field)} is given twice", "Give it once, or once for each source as NAME=….")
    found = next(iter(own or general), None)
    known = WORDS_OF_SOURCE.get(field)
    if found is not None and known and found not in known:
        raise Mistake(
            f"{setting(field)}: there is no '{found}'", did_you_mean(found, known, f"There are {', '.join(known)}.")
        )
    return found
