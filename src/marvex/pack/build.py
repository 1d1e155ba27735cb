"""A pack is built: what has changed is made again, and all is put into place together."""

from __future__ import annotations

import base64
import contextlib
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import field, replace
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from marvex.app.outputs import Outputs
from marvex.core.errors import Mistake, did_you_mean, listed, sentence
from marvex.core.values import dataclass
from marvex.core.words.printable import printable
from marvex.pack import kept as kept_of
from marvex.pack.editions import FOLDER as EDITIONS
from marvex.pack.editions import carried_over, frozen, lacking_remarks, last_edition
from marvex.pack.kept import PLAIN, Digests, Kept, Pieces
from marvex.pack.pack_file import Pack, PackView, as_keys
from marvex.pack.piece import Piece
from marvex.pack.windows import ALL, Choice, Chooser, PackPeriod, choices_of, chosen, moved, period_of_pack

if TYPE_CHECKING:
    from marvex.app.session import Session
    from marvex.pack.making import Unpainted
    from marvex.pack.painting import Painters
    from marvex.views.drawing.saving import Saved

Told = Callable[[str, int, int], None]  # what is being done, how much of it is done, of how much


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Asked:
    """How a pack is to be built.

    Parameters
    ----------
    folder : where it is built.
    is_fresh : all is made, whether it has changed or not.
    only : the one view that is made.
    issues : the figures are frozen as the edition of the period.
    moves : the pack's window was said in the call, or is a date in the file.
    """

    folder: Path
    is_fresh: bool = False
    only: str | None = None
    issues: bool = False
    moves: bool = False


@dataclass(slots=True, kw_only=True, eq=False)
class BuiltPack:
    """What came of a build."""

    period: str = ""
    made: list[str] = field(default_factory=list)  # the views that were made again
    kept: list[str] = field(default_factory=list)  # those that had not changed
    failed: dict[str, Mistake] = field(default_factory=dict)
    stands: list[str] = field(default_factory=list)  # views with dates of their own, which did not move
    files: tuple[Path, ...] = ()
    failing: dict[str, list[str]] = field(default_factory=dict)  # bands that fail, by view
    restated: dict[str, list[str]] = field(default_factory=dict)
    lacking: dict[str, list[str]] = field(default_factory=dict)  # points that need a remark, by view
    said: list[str] = field(default_factory=list)  # how the sources were read, each once, cautions among it
    edition: str = ""  # that was frozen
    gate: bool = False


def build_pack(pack: Pack, asked: Asked, told: Told) -> BuiltPack:
    """Builds a pack; what it gives says how that went, for a view that fails does not stop the others.

    Raises Mistake where nothing can be built.
    """
    if asked.only is not None and asked.only not in [one.name for one in pack.views]:
        names = [one.name for one in pack.views]
        raise Mistake(
            f"{pack.path.name} has no view '{asked.only}'",
            did_you_mean(asked.only, names, f"There are {listed(names)}."),
        )
    asked = replace(asked, folder=asked.folder.absolute())
    folder = asked.folder
    # Paths start from the pack's folder.
    with contextlib.chdir(pack.path.absolute().parent), _alone_in(folder, pack):
        kept_of.check_folder(folder, pack)
        return _Building(pack, asked, told).run()


class _Building:
    """A build while it goes on."""

    def __init__(self, pack: Pack, asked: Asked, told: Told) -> None:
        self.pack, self.asked, self.told, self.folder = pack, asked, told, asked.folder
        self.edition = last_edition(self.folder)
        self.digests = Digests(pack, self.edition)
        self.before: Kept = kept_of.kept_in(self.folder)
        self.result = BuiltPack()
        self.pieces: dict[str, Pieces] = {}
        self.chooser: Chooser = ()

    def run(self) -> BuiltPack:
        result, pack = self.result, self.pack
        current = {view.name: self.digests.of_view(view) for view in pack.views}
        stale = [view for view in pack.views if self._is_stale(view, current[view.name])]
        for view in pack.views:
            if view in stale:
                continue
            pieces = kept_of.pieces_in(self.folder, view.name)
            if pieces is None:
                stale.append(view)
            else:
                self.pieces[view.name] = pieces
        period = self._period_kept() if not stale else None
        head = self.digests.of_pack()
        is_other = head != self.before.pack or self.asked.issues or not (self.folder / "index.html").is_file()
        if period is not None and not is_other:
            self._judge(period)
            return result
        from marvex.pack.painting import Painters

        with Painters() as painters:
            period = period or self._made(painters, stale)
            self._judge(period)
            if result.made or is_other:
                # What was not made, and is not as its settings now say, stays as stale as it was.
                known = {**self.before.views, **{name: current[name] for name in result.made}}
                digests = {name: digest for name, digest in known.items() if name in current}
                self._write(painters, digests, head, period)
        return result

    def _made(self, painters: Painters, stale: Sequence[PackView]) -> PackPeriod:
        """The pack's period, when what has changed has been made again."""
        from marvex.app.session import Session

        with Session(as_keys) as session:
            self._hear(session, stale)
            period = period_of_pack(session, self.pack)
            self.chooser = choices_of(session, self.pack, period)
            if stale:
                self._make(session, painters, stale, period)
        return period

    def _is_stale(self, view: PackView, digest: str) -> bool:
        if self.asked.only is not None:
            return view.name == self.asked.only
        return self.asked.is_fresh or not self.before.is_current(view.name, digest)

    def _hear(self, session: Session, stale: Sequence[PackView]) -> None:
        """Tells the session what will be asked, but for views that are wrong, which are told of when they are made."""
        for view in stale:
            with contextlib.suppress(Mistake):
                session.hear([view.request()], self.pack.choices)

    def _period_kept(self) -> PackPeriod | None:
        """The pack's period as the last build found it, where nothing is made; None where there was none."""
        kept = self.folder / kept_of.FOLDER / "chooser.json"
        if not kept.is_file():
            return None
        import json

        content = json.loads(kept.read_text(encoding="utf-8"))
        self.chooser = tuple(
            (dimension, tuple(Choice(**one) for one in choices)) for dimension, choices in content["choices"]
        )
        return PackPeriod(name=content["period"], window=None)

    def _make(self, session: Session, painters: Painters, stale: Sequence[PackView], period: PackPeriod) -> None:
        """Works out and paints the views that have changed, each as it is and under every choice."""
        from marvex.pack.painting import painted_all

        keys: dict[str, list[str]] = {}
        for done, view in enumerate(stale):
            self.told(f"working out {view.name}", done, 2 * len(stale))
            try:
                with view.placed():
                    found = list(self._worked_out(session, view, period))
            except Mistake as mistake:
                self.result.failed[view.name] = mistake
                continue
            keys[view.name] = [key for key, _ in found]
            painters.begin(view.name, partial(painted_all, [(one, key == PLAIN) for key, one in found]))
        for done, (name, of_view) in enumerate(keys.items()):
            self.told(f"drawing {name}", len(stale) + done, 2 * len(stale))
            for key, piece in zip(of_view, painters.result(name), strict=True):
                if isinstance(piece, Mistake) and key == PLAIN:
                    self.result.failed[name] = piece
                else:
                    shown = self._nothing(name, key, piece) if isinstance(piece, Mistake) else piece
                    self.pieces.setdefault(name, {})[key] = shown
        for view in stale:
            if view.name in self.result.failed:
                self.pieces.pop(view.name, None)
                earlier = kept_of.pieces_in(self.folder, view.name)
                if earlier is not None:
                    self.pieces[view.name] = earlier
            else:
                self.result.made.append(view.name)

    def _worked_out(self, session: Session, view: PackView, period: PackPeriod) -> Iterator[tuple[str, Unpainted]]:
        from marvex.pack.making import Unpainted, piece_of, with_carried

        request = moved(view, session, period.window, is_said=self.pack.for_ is not None)
        if view.has_dates and self.asked.moves:
            self.result.stands.append(view.name)
        since = self.edition / f"{view.name}.json" if self.edition else None
        if since is not None and since.is_file():
            edition = self.edition.name if self.edition else ""
            if period.is_said and edition not in (ALL, period.name):
                self._say(f"the source is of {period.name}, and not compared with the edition {edition}")
            else:
                settings = replace(request.settings, since=since, since_gate=self.pack.restated_fails)
                request = replace(request, settings=settings, since_name=f"the edition {edition}")
            request = with_carried(session, request, carried_over(self.edition, view.name), edition)
        yield PLAIN, piece_of(session, view.name, view.draw, request, is_whole=True)
        plain = request.with_settings(replace(request.settings, since=None, since_gate=False))
        for dimension, choices in self.chooser:
            for choice in choices:
                key = f"{dimension}={choice.key}"
                try:
                    asked = chosen(view, plain, choice, session.ledger(plain))
                    if asked is None:
                        continue
                    one = piece_of(session, view.name, view.draw, asked, is_whole=False)
                except Mistake as problem:  # there are no figures under that choice
                    one = Unpainted(piece=self._nothing(view.name, key, problem), plan=None, request=plain)
                yield key, one

    def _say(self, line: str) -> None:
        if line not in self.result.said:
            self.result.said.append(line)

    def _nothing(self, name: str, key: str, problem: Mistake) -> Piece:
        """What stands for a view under a choice that it cannot be shown for, with the reason."""
        labels = {f"{dimension}={one.key}": one.label for dimension, choices in self.chooser for one in choices}
        draw = next(view.draw for view in self.pack.views if view.name == name)
        title, reason = f"Nothing to show for {labels[key]}", sentence(as_keys(problem.what))
        return Piece(name=name, draw=draw, title=printable(title), subtitle=printable(reason), foot="")

    def _judge(self, period: PackPeriod) -> None:
        """The gates that were met."""
        result, pack = self.result, self.pack
        result.period = period.name
        result.kept = [name for name in self.pieces if name not in {*result.made, *result.failed}]
        for name, pieces in self.pieces.items():
            piece = pieces[PLAIN]
            if name in result.made:
                for line in piece.said:
                    self._say(line)
            if piece.failing:
                result.failing[name] = piece.failing
            if piece.restated or piece.rebanded:
                result.restated[name] = [*piece.restated, *piece.rebanded]
            if pack.remarks_needed and (lacking := lacking_remarks(piece)):
                result.lacking[name] = lacking
        is_restated = pack.restated_fails and any(self.pieces[name][PLAIN].restated for name in result.restated)
        result.gate = bool(result.failing or result.lacking) or is_restated

    def _write(self, painters: Painters, digests: dict[str, str], head: str, period: PackPeriod) -> None:
        """All files of the pack, put into place together."""
        from marvex.app.draw import NO_LETTERS
        from marvex.pack.page import page
        from marvex.pack.workbook import pack_workbook

        pack, result, folder = self.pack, self.result, self.folder
        ordered = [view.name for view in pack.views if view.name in self.pieces]
        pieces = {name: self.pieces[name] for name in ordered}
        plain = [pieces[name][PLAIN] for name in ordered]
        self.told("putting the page, the workbook and the document together", 0, 1)
        files: dict[str, str | bytes] = {}
        for one in plain:
            if one.svg_file:
                files[f"pictures/{one.name}.svg"] = base64.b64decode(one.svg_file)
                files[f"pictures/{one.name}.png"] = base64.b64decode(one.png)
            files[f"figures/{one.name}.json"] = one.figures
            files[f"figures/{one.name}.csv"] = one.csv
        if plain:
            painters.begin("document", partial(_document, pack, period.name, plain))
            painters.begin("fonts", partial(_fonts, pack, period.name, pieces, self.chooser))
            files["pack.xlsx"] = pack_workbook(pack, plain)
            files["index.html"] = page(pack, period.name, pieces, self.chooser, painters.result("fonts"))
            of_document = painters.result("document")
            files["pack.pdf"] = of_document.content
            if of_document.lacks_letters:
                self._say(f"caution: {NO_LETTERS}")
        if self.asked.issues and not result.failed:
            result.edition = period.name
            settings = {view.name: view.settings for view in pack.views}
            for one in plain:
                files[f"{EDITIONS}/{period.name}/{one.name}.json"] = frozen(one, settings[one.name])
        written = sorted(name for name in files if not name.startswith(EDITIONS))
        for name in result.made:
            files[kept_of.pieces_path(name)] = kept_of.pieces_text(self.pieces[name])
        files[f"{kept_of.FOLDER}/chooser.json"] = _chooser_text(period, self.chooser)
        files[kept_of.STATE] = kept_of.state_text(digests, head, written)
        outputs = Outputs()
        for name, content in files.items():
            path = folder / name
            path.parent.mkdir(parents=True, exist_ok=True)
            outputs.add(path, content)
        outputs.write()
        for name in set(self.before.files) - set(written):
            if ".." not in name and not name.startswith("/"):
                (folder / name).unlink(missing_ok=True)
        result.files = tuple(folder / name for name in written)


# What these import, only the process that does the work does.


def _document(pack: Pack, period: str, pieces: Sequence[Piece]) -> Saved:
    from marvex.pack.document import document

    return document(pack, period, pieces)


def _fonts(pack: Pack, period: str, views: Mapping[str, Pieces], chooser: Chooser) -> str:
    from marvex.pack.page import fonts_of

    labels = [choice.label for _, choices in chooser for choice in choices]
    return fonts_of([piece for pieces in views.values() for piece in pieces.values()], pack.title, period, *labels)


def _chooser_text(period: PackPeriod, chooser: Chooser) -> str:
    import dataclasses
    import json

    choices = [[dimension, [dataclasses.asdict(one) for one in choices]] for dimension, choices in chooser]
    return json.dumps({"period": period.name, "choices": choices}, ensure_ascii=False)


@contextlib.contextmanager
def _alone_in(folder: Path, pack: Pack) -> Iterator[None]:
    """Holds a folder for one build; raises Mistake where another has it."""
    try:
        (folder / kept_of.FOLDER).mkdir(parents=True, exist_ok=True)
        lock = (folder / kept_of.FOLDER / "lock").open("w")
    except OSError as problem:
        raise Mistake(f"'{folder}' cannot be written: {problem.strerror}", "Name another folder.") from problem
    with lock:
        with contextlib.suppress(ImportError):  # a system without it has no way to hold a file
            import fcntl

            try:
                # A lock of this process alone: painters that outlive it do not hold the folder.
                fcntl.lockf(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except OSError:
                raise Mistake(
                    f"{pack.path.name} is being built in '{folder}' by another process", "Wait for it to end."
                ) from None
        yield
