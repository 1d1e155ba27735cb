"""The sources of a command or of a pack: each is opened once, however many requests are made of it.

A request whose sources are to be read as those of an earlier one were is answered from the same facts.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from types import TracebackType
from typing import TYPE_CHECKING, Self

from marvex.app.deadline import Deadline
from marvex.app.sources_asked import sources_asked
from marvex.core.structure.statement import Statement
from marvex.request.request import Request
from marvex.request.wording import as_options
from marvex.sources.engine.connection import Engine, connected
from marvex.sources.engine.gathered import Gathered
from marvex.sources.engine.ledger import Ledger
from marvex.sources.engine.read_ledger import read_ledger
from marvex.sources.engine.source_asked import AskedOfSource
from marvex.sources.readers.files import Files
from marvex.sources.readers.source_file import Wanted

if TYPE_CHECKING:
    from marvex.sources.engine.listing import Listing


class Session:
    """What has been opened and read; use it in a `with` block, at whose end all of it is closed.

    Parameters
    ----------
    word : how a setting is called where this session's requests were said.
    """

    def __init__(self, word: Callable[[str], str] = as_options) -> None:
        self.word = word
        self._files = Files()
        self._engine: Engine | None = None
        self._gathered = Gathered()
        self._deadline = Deadline()
        self._ledgers: dict[tuple[tuple[AskedOfSource, ...], bool], Ledger] = {}

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, problem: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._deadline.close()
        if self._engine is not None:
            self._engine.close()
        self._files.close()
        if problem is None:
            self._files.check_unchanged()
        elif isinstance(problem, KeyboardInterrupt) and self._deadline.is_past:
            raise self._deadline.mistake() from None

    def hear(self, requests: Iterable[Request], columns: Sequence[str] = ()) -> None:
        """Takes note of requests before they are answered, so that what they have in common is read once.

        Parameters
        ----------
        columns : others by whose values the rows will be kept.
        """
        for request in requests:
            self._gathered.hear(sources_asked(request), columns)

    def ledger(self, request: Request, *, is_held: bool = False) -> Ledger:
        """The sources as a request reads them.

        Parameters
        ----------
        is_held : the rows are kept in the engine, for a survey that asks them many things.

        Raises Mistake where a source cannot be read so.
        """
        settings = request.settings
        if settings.give_up_after is not None:
            self._deadline.begin(settings.give_up_after)
        asked = sources_asked(request), is_held
        if settings.memory is not None:
            self._started().bound(settings.memory, self._files.spare_folder())
        if asked not in self._ledgers:
            self._ledgers[asked] = read_ledger(self._files, self._apart(), asked[0], self._gathered, is_held=is_held)
        return self._ledgers[asked].anew()

    def listing(self, source: str) -> Listing:
        """A table as it stands, every cell as text."""
        from marvex.sources.engine.listing import listing_of

        return listing_of(self._files, self._apart(), source)

    def found_statement(self, source: str) -> Statement | None:
        """The statement that a table was found to be; None where it is none.

        Raises Mistake where that cannot be told.
        """
        found = self._files.file(Wanted(source=source)).found
        return None if found is None else found.statement

    @property
    def share(self) -> float | None:
        """How much of what is being read is read, in per cent; None where that cannot be told."""
        return None if self._engine is None else self._engine.share

    def _started(self) -> Engine:
        if self._engine is None:
            self._engine = connected()
        return self._engine

    def _apart(self) -> Engine:
        return self._started().apart()
