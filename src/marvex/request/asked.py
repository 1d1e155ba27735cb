"""What a comparison is asked by, as text: so that another call of it can be told from another answer."""

from __future__ import annotations

import dataclasses
from collections.abc import Mapping

from marvex.request.option import COMPARING, JUDGING, READING
from marvex.request.settings import OPTIONS, Settings

# What is moved each month, and what no figure hangs on.
_MOVES = frozenset({"for_", "as_of", "memory", "give_up_after", "since", "since_gate"})


def asked(settings: Settings) -> dict[str, str]:
    """The settings, by field, that are said and say which figures there are and how they are judged.

    >>> asked(Settings(by=("route",), for_=("2026-10",), title="Routes"))
    {'by': 'route'}
    """
    told = {
        one.name: (getattr(settings, one.name), one.default)
        for one in dataclasses.fields(settings)
        if one.name not in _MOVES and OPTIONS[one.name].group in (READING, COMPARING, JUDGING)
    }
    return {name: _text(value) for name, (value, default) in sorted(told.items()) if value != default}


def _text(value: object) -> str:
    return " | ".join(map(str, value)) if isinstance(value, tuple) else str(value)


def asked_otherwise(then: Mapping[str, str] | None, settings: Settings) -> tuple[str, ...]:
    """The fields that are said otherwise than they were; none where it is not known how that was."""
    if then is None:
        return ()
    now = asked(settings)
    return tuple(name for name in sorted({*then, *now}) if then.get(name) != now.get(name))
