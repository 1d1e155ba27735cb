"""The tags of an SVG, apart from its texts."""

from __future__ import annotations

import re
from collections.abc import Callable


def in_tags(change: Callable[[str], str], svg: str) -> str:
    """An SVG whose tags are changed, its texts not: a figure may look like a coordinate, a name like a style."""
    return re.sub(r"<[^>]*>", lambda found: change(found[0]), svg)
