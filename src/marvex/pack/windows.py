"""Which period a pack is of, what moves with it, and the choices that its page offers."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta
from functools import partial
from typing import TYPE_CHECKING, Any

from marvex.core.compare.asked import SidesAsked
from marvex.core.compare.current_window import window_reader, written
from marvex.core.compare.point import NO_NAME
from marvex.core.compare.scenarios import ScenarioDates, current_scenarios
from marvex.core.errors import Mistake, did_you_mean, listed
from marvex.core.time.calendar import Grain
from marvex.core.time.notation import is_widening
from marvex.core.time.window import Window
from marvex.core.values import dataclass
from marvex.core.words.side_names import window_text
from marvex.pack.pack_file import Pack, PackView
from marvex.request.option import GRAINS
from marvex.request.request import Request

if TYPE_CHECKING:
    from marvex.app.session import Session
    from marvex.sources.engine.ledger import Ledger

ALL = "all"  # the period of a pack whose sources say none
PERIODS, VALUES = 12, 24  # of each that a page lets choose from, at most


@dataclass(frozen=True, slots=True, kw_only=True)
class Choice:
    """One thing that a reader may choose on the page.

    Parameters
    ----------
    dimension : a grain or a column.
    key : the period in notation, or the value; `label` is how it is read.
    """

    dimension: str
    key: str
    label: str

    @property
    def is_period(self) -> bool:
        return self.dimension in GRAINS


Chooser = tuple[tuple[str, tuple[Choice, ...]], ...]  # each dimension with what there is to choose


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class PackPeriod:
    """The window that a pack is of, in its notation, and the view whose data have told it.

    Without dates there is no window; `is_said` where a title, a sheet or a file of the source says a period still.
    """

    name: str
    window: Window | None
    view: PackView | None = None
    is_said: bool = False


def period_of_pack(session: Session, pack: Pack) -> PackPeriod:
    """The pack's own window: as it says it, else the last complete month; where nothing is dated what the source says
    of all of it, else 'all'."""
    problems: list[Mistake] = []
    said: list[str] = []
    for view in pack.views:
        try:
            with view.placed():
                request = view.request()
                book = session.ledger(request)
        except Mistake as problem:  # which is told of once more when the view is made
            problems.append(problem)
            continue
        if not any(one.last for one in book.scenarios):
            said += [book.period_said] if book.period_said else []
            continue
        with view.placed():
            asked = request.sides_asked(None, None, along_time=False)
            of, _ = current_scenarios(book.scenarios, asked.scenario, asked.as_of)
            text = pack.for_ or "latest"
            found = window_reader(of, asked).read(text)
        if found is None:
            raise Mistake(f"{pack.path.name}: for cannot be '{text}'", "Write a window, such as 2026-10.")
        return PackPeriod(name=written(found).replace("/", "_"), window=found, view=view)
    if len(problems) == len(pack.views):
        raise problems[0]
    return PackPeriod(name=said[0] if said else ALL, window=None, is_said=bool(said))


def moved(view: PackView, session: Session, window: Window | None, *, is_said: bool) -> Request:
    """What a view asks for at the end of a window: as of that day, unless its own window stands or ends there anyway.

    Parameters
    ----------
    is_said : the pack says its window: what came after it is not known then.
    """
    request = view.request()
    if window is None or view.stands or view.settings.as_of is not None or view.settings.current:
        return request
    book = session.ledger(request)
    asked = request.sides_asked(None, None, along_time=False)
    of, _ = current_scenarios(book.scenarios, asked.scenario, asked.as_of)
    if of.last is None or of.last < window.first:
        return request
    end, latest = min(window.end, of.last), window_reader(of, asked).read("latest")
    ends_there = latest is None or latest.end in (window.end, end)
    if ends_there and not (is_said and of.last > window.end):
        return request
    return view.request(**_ending_with(view, of, asked, window, end))


def _ending_with(
    view: PackView, of: ScenarioDates, asked: SidesAsked, window: Window, as_of: date | None
) -> dict[str, Any]:
    """The settings with which a view's own moving window ends where another does, be that only part filled."""
    latest, own = window_reader(of, replace(asked, as_of=as_of)).read("latest"), view.settings.for_
    is_cut = latest is not None and of.last is not None and latest.end < min(window.end, of.last)
    if not is_cut or view.default_for is not None or view.settings.span is not None or len(own) != 1:
        return {"as_of": as_of}
    if not is_widening(own[0]):
        return {"as_of": as_of}
    return {"as_of": as_of, "for_": (written(window),), "span": own[0]}


def choices_of(session: Session, pack: Pack, period: PackPeriod) -> Chooser:
    """Each dimension that the pack offers, with what there is to choose."""
    found = []
    for dimension in pack.choices:
        if dimension in GRAINS:
            found.append((dimension, _periods(session, pack, Grain(dimension), period)))
        else:
            found.append((dimension, _values(session, pack, dimension)))
    return tuple(found)


def _periods(session: Session, pack: Pack, grain: Grain, period: PackPeriod) -> tuple[Choice, ...]:
    """The last periods of a grain for which there are data, the newest first."""
    if period.window is None:
        raise Mistake(f"{pack.path.name}: choices are of {grain.value}s, and the data have no dates", "Leave it out.")
    assert period.view is not None
    request = period.view.request()
    of, _ = current_scenarios(session.ledger(request).scenarios, request.settings.of, request.settings.as_of)
    calendar, found = request.calendar, list[Choice]()
    day: date = period.window.end
    while of.first is not None and day >= of.first and len(found) < PERIODS:
        window = Window(
            first=calendar.start(day, grain),
            last=calendar.end(day, grain),
            grain=grain,
            known_to=None,
            calendar=calendar,
        )
        if of.days_within(window.first, window.last):
            label = window_text(window, request.settings.locale)
            found.append(Choice(dimension=grain.value, key=written(window), label=label))
        day = window.first - timedelta(days=1)
    return tuple(found)


def _values(session: Session, pack: Pack, column: str) -> tuple[Choice, ...]:
    """The values of a column, in the first view whose source has it."""
    headings: tuple[str, ...] = ()
    for view in pack.views:
        try:
            book = session.ledger(view.request())
        except Mistake:
            continue
        headings = book.first.headings
        if column in headings:
            values = book.values_of(column)
            if len(values) > VALUES:
                what = f"choices has {column}, which has {len(values)} values, and {VALUES} are the most"
                raise Mistake(f"{pack.path.name}: {what}", "Name another column.")
            named = [*filter(None, values), *([""] if "" in values else [])]
            return tuple(Choice(dimension=column, key=value, label=value or NO_NAME) for value in named)
    hint = did_you_mean(column, (*headings, *GRAINS), f"There are {listed((*headings, *GRAINS), 12)}.")
    raise Mistake(f"{pack.path.name}: choices has {column}, which is neither a grain nor a column", hint)


def chosen(view: PackView, request: Request, choice: Choice, book: Ledger) -> Request | None:
    """What a view asks for where a reader has chosen; None where that changes nothing of it.

    Remarks are about the figures as built, whose points may not be there.
    """
    plain = partial(view.request, remark=(), remarks=None)
    if choice.is_period:
        if view.stands or request.settings.current or not any(one.last for one in book.scenarios):
            return None
        of, _ = current_scenarios(book.scenarios, request.settings.of, request.settings.as_of)
        asked = request.sides_asked(None, None, along_time=False)
        found = window_reader(of, asked).read(choice.key)
        assert found is not None  # it is in the notation of windows
        # Where the data stop sooner, what is known of the last days is told by the data themselves.
        as_of = found.last if of.last and of.last > found.last else request.settings.as_of
        if view.settings.for_ and view.default_for is None:
            return plain(**_ending_with(view, of, asked, found, as_of))
        return plain(for_=(choice.key,), as_of=as_of)
    if choice.dimension not in book.first.headings:
        return None
    from marvex.sources.where import filter_text  # which a build with nothing to make goes without

    kept = filter_text(choice.dimension, "=", [choice.key])
    return plain(where=(*request.settings.where, kept), as_of=request.settings.as_of)
