"""From settings to a picture: the analysis, the view that draws it, and the files to write."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from itertools import groupby
from pathlib import Path
from typing import Any

from marvex.app.analysis import analyse
from marvex.app.outputs import Outputs, check_outputs
from marvex.app.panels import panel_words
from marvex.app.remarks import remarked
from marvex.app.styling import styled
from marvex.app.table import FIGURES_ENDINGS, Built, Words, add_figures, check_foots, with_cautions, words_of
from marvex.app.walks import Walked, stretches, suited, walked
from marvex.core.compare.comparison import Basis
from marvex.core.compare.result import Analysis
from marvex.core.compare.shown import Shown, drawn_points, shown_table, shown_view
from marvex.core.errors import Mistake, setting
from marvex.core.rules.judging import Judged
from marvex.core.words.wording import capitalised, scenario_words, side_title, window_text
from marvex.request.settings import Settings
from marvex.request.values import Counted, Size
from marvex.views.style import Style

PICTURE_ENDINGS = (".png", ".svg", ".pdf")
SHOW = {
    "against": ("current", "change"),
    "paired": ("change", "percent"),
    "shift": ("current", "change", "percent"),
}
NEEDS_CATEGORIES = ("shift",)


@dataclass(frozen=True, slots=True, kw_only=True)
class Planned:
    """A picture before it is drawn: the view with all its settings, the panels that it is to show, its words."""

    view: Any
    panels: Sequence[Any]
    shown: Shown
    words: Words
    style: Style


@dataclass(frozen=True, slots=True, kw_only=True)
class Painted(Planned):
    """A picture before it is saved."""

    canvas: Any

    @property
    def description(self) -> str:
        """What the picture shows, for those who hear it."""
        said = (self.view.sentence(point) for panel in self.panels for point in panel.points)
        return ". ".join((self.words.subtitle, *said, *self.shown.analysis.notes))


def build_picture(view: str, sources: Sequence[str], settings: Settings) -> Built:
    """One picture and its files; nothing is written yet.

    Parameters
    ----------
    view : which kind of picture: `waterfall`, `against`, `paired`, `trend`, `variance` or `shift`.
    """
    pictures = settings.output or (Path(f"{view}.png"),)
    check_outputs(pictures, PICTURE_ENDINGS, "output")
    check_outputs(settings.figures, FIGURES_ENDINGS, "figures")
    one = painted(view, sources, settings)
    from marvex.views.saving import saved

    outputs, shown, lacks_letters = Outputs(), one.shown, False
    for path in pictures:
        file = saved(one.canvas, path.suffix.lower(), one.words.title, one.description)
        outputs.add(path, file.content)
        lacks_letters |= file.lacks_letters
    if lacks_letters:
        shown = shown.with_caution("no font here has all letters of the names: install a Noto font for their script")
    add_figures(outputs, settings, shown, one.style)
    return Built(shown, outputs, settings)


def painted(view: str, sources: Sequence[str], settings: Settings) -> Painted:
    """The picture that the settings ask for."""
    return drawn_as(planned(view, sources, settings), settings)


def planned(view: str, sources: Sequence[str], settings: Settings) -> Planned:
    """What the picture is to show, judged and in words."""
    style, weak = styled(settings.style)
    needs_categories = view in NEEDS_CATEGORIES
    analysis = analyse(sources, settings, needs_categories=needs_categories, with_beyond=view == "trend")
    if view == "waterfall":
        fitting = suited(analysis, settings)
        if (fitting.versus, fitting.totals) != (settings.versus, settings.totals):
            analysis = analyse(sources, fitting)
        settings = fitting
    analysis = remarked(analysis, settings)
    _check_suits(view, analysis, settings)
    made = None
    if view == "waterfall":
        made = walked(analysis, settings, stretches(sources, analysis, settings) if settings.via else None)
    shown = made.shown if made else shown_view(analysis, view)
    if view == "statement":
        shown = replace(shown_table(analysis), view=view)
    shown = with_cautions(shown, weak)
    check_foots(shown)
    one = _view(view, analysis, settings, style, made)
    panels = made.panels(analysis) if made else _panels(view, analysis)
    if not panels:
        raise Mistake("no point has a figure on either side", "marvex table shows what there is.")
    note = made.note if made else one.note(analysis.first.points)
    if settings.own_scale:
        note = ". ".join(part for part in (note, "Each panel has a scale of its own") if part)
    words = words_of(shown, settings, note)
    if settings.via and settings.subtitle is None:
        words = replace(words, subtitle=f"{words.subtitle}, by way of {settings.via}")
    if made and made.finding and settings.title is None:
        words = replace(words, title=made.finding)
    return Planned(view=one, panels=panels, shown=shown, words=words, style=style)


def drawn_as(plan: Planned, settings: Settings) -> Painted:
    """The picture drawn."""
    from marvex.views.frame import Framing
    from marvex.views.picture import drawn

    words = plan.words
    size = settings.size or Size(1280, 800)
    framing = Framing(
        title=words.title,
        subtitle=words.subtitle,
        foot=words.foot,
        legend=settings.legend,
        notes=plan.shown.analysis.notes,
    )
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
    return Painted(
        view=plan.view, panels=plan.panels, shown=shown, words=words, style=plan.style, canvas=picture.canvas
    )


def _check_suits(view: str, analysis: Analysis, settings: Settings) -> None:
    """Stops where a view cannot show what is asked for, or where an option would change nothing."""
    comparison = analysis.first.comparison
    has_panels = len({point.panel for point in comparison.points}) > 1
    idle = {
        f"{setting('own_scale')} is about panels, and there is one plot": settings.own_scale and not has_panels,
        f"{setting('axis_break', 'VALUE')} is for one plot, and there are panels": isinstance(
            settings.axis_break, Decimal
        )
        and has_panels,
        f"{setting('arrows')} lead from the base, and there is none": settings.arrows and comparison.base is None,
        f"{setting('base_as')} is about the base, and there is none": settings.base_as != "line"
        and comparison.base is None,
    }
    for what, is_so in idle.items():
        if is_so:
            raise Mistake(what, "Leave the option out.")
    if view in ("variance", "shift", "paired") and comparison.base is None:
        raise Mistake(
            f"the view {view} sets two sides against each other, and there is no base",
            f"Name one with {setting('versus')}, such as year-ago or budget.",
        )
    points = comparison.points
    if view == "statement" and (analysis.statement is None or any(point.is_period for point in points)):
        raise Mistake(
            "the view statement sets a statement",
            f"Name its file with {setting('statement')}, without {setting('every')}.",
        )
    if view in NEEDS_CATEGORIES and any(point.is_period for point in points):
        raise Mistake(f"the view {view} is of categories", f"Name a column with {setting('by')}.")
    if view == "trend" and not all(point.is_period for point in points):
        raise Mistake(
            "the view trend is of points along time",
            f"Say {setting('every', 'month')}, or give the categories a panel with {setting('panels_by')}.",
        )


def _view(view: str, analysis: Analysis, settings: Settings, style: Style, made: Walked | None) -> Any:
    """The view with all its settings."""
    from marvex.views.look import Look

    comparison = analysis.first.comparison
    labels = settings.labels or Counted("all")
    has_changes = comparison.base is not None or made is not None
    show = settings.show or (SHOW.get(view, ("change",)) if has_changes else ("current",))
    axis: tuple[Decimal, Decimal] | None = None
    if settings.axis is not None:
        axis = settings.axis.lowest, settings.axis.highest
    in_panels = len({point.panel for point in comparison.points}) > 1
    everyone = drawn_points(analysis) if in_panels and not settings.own_scale else ()
    look = Look(
        figures=analysis.figures,
        names=analysis.first.names,
        style=style,
        show=show,
        labels=labels.word,
        labels_count=labels.count,
        mark=analysis.mark,
        axis=axis,
        grid=settings.grid,
        in_panels=in_panels,
        everyone=everyone,
    )
    match view:
        case "waterfall":
            from marvex.views.waterfall import Waterfall

            assert made is not None
            return Waterfall(
                look=look,
                lying=settings.horizontal,
                cut=made.cut,
                arrows=settings.step_shape == "arrow",
                connectors=settings.connectors == "on",
                groups=made.groups,
            )
        case "against":
            from marvex.views.against import Against

            return Against(look, settings.arrows)
        case "paired":
            from marvex.views.paired import Paired

            return Paired(look, settings.horizontal)
        case "trend":
            from marvex.views.trend import Trend

            return Trend(look, settings.base_as, tuple(Judged(point, None) for point in comparison.beyond))
        case "statement":
            from marvex.views.statement import StatementView

            assert analysis.statement is not None
            return StatementView(look=look, statement=analysis.statement, groups=statement_groups(analysis))
        case "variance":
            from marvex.views.variance import Variance

            return Variance(look, settings.horizontal)
        case _:
            from marvex.views.shift import Shift

            return Shift(look)


def statement_groups(analysis: Analysis) -> tuple[Any, ...]:
    """The columns of each comparison: the current side once for each window, titled by it where there are several."""
    from marvex.views.statement import ColumnGroup

    locale, groups = analysis.figures.locale, []
    windows = {one.comparison.current.window for one in analysis.comparisons}
    for place, one in enumerate(analysis.comparisons):
        now, then = one.comparison.current, one.comparison.base
        is_first = place == 0 or analysis.comparisons[place - 1].comparison.current != now
        columns = [("current", capitalised(one.names.current))] if is_first else []
        title = ""
        if now.window is not None and len(windows) > 1:
            title = window_text(now.window, locale) if is_first else ""
            columns = [("current", capitalised(scenario_words(now, locale)) or "Current")] if is_first else []
        if then is not None:
            is_same_time = then.window is None or then.window == now.window
            base = capitalised(scenario_words(then, locale)) if is_same_time else side_title(then, locale)
            if one.comparison.every is not None and one.comparison.basis in (Basis.YEAR_AGO, Basis.PRIOR):
                # Each panel has a base of its own.
                is_year = one.comparison.basis is Basis.YEAR_AGO
                base = f"{'Year' if is_year else one.comparison.every.value.capitalize()} before"
            columns += [("base", base), ("change", "Change"), ("percent", "Change %")]
        groups.append(
            ColumnGroup(
                title, tuple(columns), {(judged.point.panel, judged.point.label): judged for judged in one.points}
            )
        )
    return tuple(groups)


def _panels(view: str, analysis: Analysis) -> list[Any]:
    """The points of each panel, with its name and its own finding where there are several."""
    from marvex.views.picture import Panel

    one = analysis.first
    totals = {total.point.panel: total for total in one.panel_totals}
    found = []
    points_drawn = one.points if analysis.statement is not None and view == "statement" else drawn_points(analysis)
    for name, group in groupby(points_drawn, key=lambda judged: judged.point.panel):
        points = tuple(group)
        title, finding = panel_words(analysis, name, points, totals.get(name))
        found.append(Panel(points=points, name=title, finding=finding))
    return found
