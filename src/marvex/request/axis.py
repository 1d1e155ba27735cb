"""Whether time is the axis of a request: decided here, and asked for by everything that depends on it."""

from __future__ import annotations

from marvex.request.option import GRAINS
from marvex.request.place import Place
from marvex.request.settings import Settings


def panel_column(settings: Settings) -> str | None:
    """The column whose values have a panel each, where panels are not of periods."""
    return None if has_period_panels(settings) else settings.panels_by


def has_period_panels(settings: Settings) -> bool:
    """Whether each period has a panel, and the categories are the points within."""
    return settings.panels_by in GRAINS


def asks_for_time(settings: Settings, place: Place, *, has_statement: bool = False) -> bool:
    """Whether a request makes time the axis, or periods the panels, whatever columns there are.

    Parameters
    ----------
    has_statement : the points are the lines of a statement, of a file or found.
    """
    has_lines = has_statement or settings.statement_file is not None
    only_panels = settings.panels_by is not None and not settings.by and not has_lines
    return place.only_time or settings.every is not None or has_period_panels(settings) or only_panels


def is_along_time(settings: Settings, place: Place, *, has_categories: bool, has_statement: bool = False) -> bool:
    """Whether time is the axis: as asked for, or because nothing tells categories apart."""
    return asks_for_time(settings, place, has_statement=has_statement) or not has_categories
