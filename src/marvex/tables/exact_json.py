"""JSON in which every decimal keeps its own digits: no number passes through binary floating point."""

from __future__ import annotations

import json
import re
from datetime import date
from decimal import Decimal
from enum import Enum
from typing import Any

_NUMBER = re.compile('"\\\\u0000([^"]*?)\\\\u0000"')


def exact_json(record: dict[str, Any]) -> str:
    """The record as indented JSON; decimals as numbers, days as ISO texts, enums as their values."""
    # json knows no decimals: they are marked as texts and unwrapped, digit for digit.
    return _NUMBER.sub(r"\1", json.dumps(record, indent=2, ensure_ascii=False, default=_plain)) + "\n"


def _plain(value: Any) -> Any:
    if isinstance(value, Decimal):
        return f"\0{value:f}\0"
    if isinstance(value, Enum):
        return value.value
    if isinstance(value, date):
        return value.isoformat()
    raise TypeError(f"{value!r} has no JSON form")
