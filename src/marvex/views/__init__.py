"""A core result in, a Matplotlib figure out: one file a view, found by its name; they draw with `drawing`."""

from __future__ import annotations

from importlib import import_module
from pkgutil import iter_modules
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from marvex.views.drawing.about import About


def view_names() -> tuple[str, ...]:
    """The names of all views, which are those of the files in this folder."""
    return tuple(sorted(one.name for one in iter_modules(__path__) if not one.ispkg))


def about_view(name: str) -> About:
    """What a view says of itself."""
    found: About = import_module(f"{__name__}.{name}").ABOUT
    return found
