"""`draw`: from a request to a picture, by way of the view that draws it, and the files to write."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from decimal import Decimal
from functools import partial
from itertools import groupby
from pathlib import Path
from typing import Any

from marvex.app.analysis import analyse
from marvex.app.built import FIGURES_ENDINGS, Built, add_figures, check_foots, style_cautions, with_cautions
from marvex.app.outputs import Outputs, check_request
from marvex.app.panels import panel_words
from marvex.app.remarks import noted
from marvex.app.session import Session
from marvex.app.styling import styled
from marvex.app.walk_asked import stretches, suited
from marvex.app.walks import Walked, walked
from marvex.app.words import TABLE_FIGURES, Words, words_of
from marvex.core.compare.across import across, is_across
from marvex.core.compare.point import Point
from marvex.core.compare.result import Analysis, of_changes
from marvex.core.compare.shown import Shown, drawn_points, shown_table, shown_view
from marvex.core.errors import Mistake, listed, setting
from marvex.core.rules.turning import turning_point
from marvex.core.structure.total_names import speaks_of_variance
from marvex.core.values import dataclass
from marvex.core.words.adding_up import Printed
from marvex.core.words.wording import point_name
from marvex.request.request import Request
from marvex.request.settings import Settings
from marvex.request.values import Counted, Size
from marvex.views import about_view
from marvex.views.drawing.about import About
from marvex.views.drawing.style import Style

MOST_SAID, FEW_SAID = 24, 5  # points of which a picture's description tells each, and else so many
NO_LETTERS = "no font here has all letters of the names: install a Noto font for their script"
TURN_NOTE = "The short lines beside bars are where their colour would turn"
MOST_TURNS = 24  # points that have a hairline where their colour would turn
PICTURE_ENDINGS = (".png", ".svg", ".pdf")


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Planned:
    """A picture before it is drawn: the view with all its settings, the panels that it is to show, its words."""

    view: Any
    panels: Sequence[Any]
    shown: Shown
    words: Words
    style: Style
    size_called: str  # what the setting of its size is called


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Painted(Planned):
    """A picture before it is saved."""

    canvas: Any

    @property
    def description(self) -> str:
        """What the picture shows, for those who hear it; of many points those that moved most, for each has its own."""
        points = [point for panel in self.panels for point in panel.points]
        said = points
        if len(points) > MOST_SAID:
            largest = sorted(points, key=_moved, reverse=True)[:FEW_SAID]
            said = [point for point in points if any(point is one for one in largest)]
        rest = f"{len(points) - len(said)} more, each with its own words" if len(said) < len(points) else ""
        sentences = (self.view.sentence(point) for point in said)
        return ". ".join(part for part in (self.words.subtitle, *sentences, rest, *self.shown.analysis.notes) if part)


def build_picture(session: Session, view: str, request: Request) -> Built:
    """One picture and its files; nothing is written yet.

    Parameters
    ----------
    view : which kind of picture, by its name.
    """
    pictures = request.settings.output or (Path(f"{view}.png"),)
    asked = request.with_settings(replace(request.settings, output=pictures))
    check_request(asked, PICTURE_ENDINGS, FIGURES_ENDINGS)
    one = painted(session, view, request)
    from marvex.views.drawing.saving import saved
    from marvex.views.drawing.text_metrics import typeface

    outputs, shown, lacks_letters = Outputs(), one.shown, False
    with typeface(one.style.fonts):
        for path in pictures:
            file = saved(one.canvas, path.suffix.lower(), one.words.title, one.description)
            outputs.add(path, file.content)
            lacks_letters |= file.lacks_letters
    if lacks_letters:
        shown = with_cautions(shown, [NO_LETTERS])
    add_figures(outputs, request.settings, shown)
    return Built(shown, outputs, request.settings)


def painted(session: Session, view: str, request: Request) -> Painted:
    """The picture that a request asks for."""
    return drawn_as(planned(session, view, request), request.settings)


def planned(session: Session, view: str, request: Request) -> Planned:
    """What the picture is to show, judged and in words."""
    about, style = about_view(view), styled(request.settings.style)
    if about.walks:
        request = suited(session, request)
    analysis = analyse(session, request)
    settings = request.settings
    are_changes = about.shows_changes and settings.versus == ("none",) and speaks_of_variance(analysis.subject)
    if are_changes:
        analysis = of_changes(analysis)
    analysis = noted(session, request, analysis)
    _check_suits(view, about, analysis, settings, are_changes=are_changes)
    made = None
    if about.walks:
        parts = stretches(session, analysis, request) if settings.via else None
        made = walked(analysis, settings, session.word, parts)
    shown = made.shown if made else shown_view(analysis, view)
    if about.several:
        shown = replace(shown_table(analysis), view=view)
    shown = replace(with_cautions(shown, style_cautions(settings)), finding=made.finding if made else "")
    check_foots(shown)
    one = _view(about, analysis, settings, style, made)
    panels = made.panels(analysis) if made else _panels(about, analysis)
    if not panels:
        raise Mistake("no point has a figure on either side", "marvex table shows what there is.")
    note = made.note if made else one.note(analysis.first.points)
    if about.turns and any(one.look.turns(judged.point) is not None for judged in analysis.first.points):
        note = _and(note, TURN_NOTE)
    if settings.own_scale:
        note = _and(note, "Each panel has a scale of its own")
    printed = one.look.show if not about.needs_statement else TABLE_FIGURES
    is_all = settings.labels is None or settings.labels.word == "all"
    words = words_of(
        shown,
        settings,
        remark=note,
        printed=Printed(figures=printed, sums=is_all),
        subtitle=made.subtitle if made else "",
    )
    called = session.word(setting("size"))
    return Planned(view=one, panels=panels, shown=shown, words=words, style=style, size_called=called)


def _moved(one: Any) -> Decimal:
    """By how much a point or a bar moved; one that stands, not at all."""
    is_standing = getattr(one, "is_standing", False)
    point = one.point
    return Decimal(0) if is_standing or point.change is None else abs(point.change)


def _and(*notes: str) -> str:
    """What a picture has to say of itself, as sentences."""
    return ". ".join(note for note in notes if note)


def drawn_as(plan: Planned, settings: Settings) -> Painted:
    """The picture drawn, in the size that the settings ask for."""
    from marvex.views.drawing.frame import Framing
    from marvex.views.drawing.picture import drawn
    from marvex.views.drawing.text_metrics import typeface

    words = plan.words
    size = settings.size or Size(1280, 800)
    framing = Framing(
        title=words.title,
        subtitle=words.subtitle,
        foot=words.foot,
        legend=settings.legend,
        notes=plan.shown.analysis.notes,
    )
    with typeface(plan.style.fonts):
        picture = drawn(
            plan.view,
            plan.panels,
            plan.shown.legend(),
            framing,
            (size.width, size.height),
            can_grow=settings.size is None,
            own_scale=settings.own_scale,
        )
    shown = replace(plan.shown, dropped=picture.dropped)
    if picture.dropped:
        names = listed(dict.fromkeys(point_name(one, settings.locale) for one in picture.dropped), 4)
        count = "1 label" if len(picture.dropped) == 1 else f"{len(picture.dropped)} labels"
        shown = shown.with_caution(f"{count} found no room ({names}); a larger {plan.size_called} has more")
    return Painted(
        view=plan.view,
        panels=plan.panels,
        shown=shown,
        words=words,
        style=plan.style,
        size_called=plan.size_called,
        canvas=picture.canvas,
    )


def _check_suits(view: str, about: About, analysis: Analysis, settings: Settings, *, are_changes: bool) -> None:
    """Stops where a view cannot show what is asked for, or where an option would change nothing.

    Parameters
    ----------
    are_changes : the amounts are differences, which need no base.
    """
    comparison = analysis.first.comparison
    idle = {
        "own_scale": ("is about panels, and there is one plot", settings.own_scale and not comparison.has_panels),
        "axis_break": (
            "is for one plot, and there are panels",
            isinstance(settings.axis_break, Decimal) and comparison.has_panels,
        ),
        "arrows": ("lead from the base, and there is none", settings.arrows and comparison.base is None),
        "base_as": ("is about the base, and there is none", settings.base_as != "auto" and comparison.base is None),
    }
    for field, (what, is_so) in idle.items():
        if is_so:
            raise Mistake(f"{setting(field)} {what}", "Leave the option out.")
    if about.needs_base and comparison.base is None and not are_changes:
        raise Mistake(
            f"the view {view} sets two sides against each other, and there is no base",
            f"Name one with {setting('versus')}, such as year-ago or budget"
            + (f"; {setting('versus', 'none')} draws a column of differences." if about.shows_changes else "."),
        )
    if about.needs_statement and analysis.statement is None:
        raise Mistake(
            f"the view {view} sets a statement",
            f"Name its file with {setting('statement')}.",
        )
    if about.needs_categories and comparison.is_along_time:
        raise Mistake(f"the view {view} is of categories", f"Name a column with {setting('by')}.")
    if about.only_time and not comparison.is_along_time:
        raise Mistake(
            f"the view {view} is of points along time",
            f"Say {setting('every', 'month')}, or give the categories a panel with {setting('panels_by')}.",
        )


def _view(about: About, analysis: Analysis, settings: Settings, style: Style, made: Walked | None) -> Any:
    """The view with all its settings."""
    from marvex.views.drawing.look import Look

    comparison = analysis.first.comparison
    labels = settings.labels or Counted("all")
    has_changes = comparison.base is not None or made is not None or about.shows_changes
    look = Look(
        figures=analysis.figures,
        names=analysis.first.names,
        style=style,
        show=settings.show or (_shown(about, settings) if has_changes else ("current",)),
        labels=labels.word,
        labels_count=labels.count,
        labels_by=labels.by,
        thins=settings.labels is None,
        mark=analysis.mark,
        axis=(settings.axis.lowest, settings.axis.highest) if settings.axis else None,
        grid=settings.grid,
        by_effect=about.by_effect and analysis.statement is not None and analysis.statement.has_both_kinds,
        marks=settings.marks == "on",
        turns=_turns(analysis, settings),
        in_panels=comparison.has_panels and not (about.needs_statement and is_across(analysis)),
        everyone=drawn_points(analysis) if comparison.has_panels and not settings.own_scale else (),
    )
    said = {field: getattr(settings, field) for field in about.takes}
    if made is not None:
        said |= {"cuts": made.cuts, "groups": made.groups}
    return about.view.made(look, said, analysis)


def _shown(about: About, settings: Settings) -> tuple[str, ...]:
    """What a label says unless told otherwise: first what the bars measure."""
    return ("percent", "change") if settings.plot == "percent" else about.show


def _turns(analysis: Analysis, settings: Settings) -> Callable[[Point], Decimal | None]:
    """Where the colour of each bar would turn, for so few points that it is seen, or as is asked."""
    one = analysis.first
    is_on = len(one.points) <= MOST_TURNS if settings.thresholds is None else settings.thresholds == "on"
    return partial(turning_point, one.rules) if is_on and one.comparison.base is not None else _never


def _never(_point: Point) -> None:
    """Where no colour turns; by name, for a plan is handed to other processes."""


def _panels(about: About, analysis: Analysis) -> list[Any]:
    """The points of each panel, with its name and its own finding where there are several."""
    from marvex.views.drawing.panel import Panel

    # Beside months that stand across there are the bars of all of them.
    one = across(analysis).comparisons[-1] if about.needs_statement and is_across(analysis) else analysis.first
    totals = {total.point.panel: total for total in one.panel_totals}
    found = []
    for name, group in groupby(
        one.points if about.needs_statement else drawn_points(analysis), key=lambda judged: judged.point.panel
    ):
        points = tuple(group)
        title, finding = panel_words(analysis, name, points, totals.get(name))
        found.append(Panel(points=points, name=title, finding=finding))
    return found
