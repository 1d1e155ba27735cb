"""The session of a command, and how far it is where that takes long and somebody watches."""

from __future__ import annotations

import contextlib
import sys
import threading
from collections.abc import Iterator

from marvex.app.session import Session

SHOWN_AFTER = 1.5  # seconds


@contextlib.contextmanager
def reading(loudness: int) -> Iterator[Session]:
    """A session; on a terminal, what it reads is told after a while, and is gone in the end."""
    with (
        Session() as session,
        _watched(session) if loudness >= 0 and sys.stderr.isatty() else contextlib.nullcontext(),
    ):
        yield session


@contextlib.contextmanager
def _watched(session: Session) -> Iterator[None]:
    with contextlib.ExitStack() as shown:
        timer = threading.Timer(SHOWN_AFTER, lambda: shown.enter_context(_shown(session)))
        timer.daemon = True
        timer.start()
        try:
            yield
        finally:
            timer.cancel()
            timer.join()


@contextlib.contextmanager
def _shown(session: Session) -> Iterator[None]:
    from rich.console import Console
    from rich.progress import Progress, ProgressColumn, Task
    from rich.text import Text

    class Share(ProgressColumn):
        """The share that is read, where the engine can tell it, and how long that has taken."""

        def render(self, task: Task) -> Text:
            share = session.share
            seconds = f"{SHOWN_AFTER + (task.elapsed or 0):.0f} s"
            return Text(
                f"reading, {seconds}" if share is None else f"reading, {share:.0f}% in {seconds}", style="dim"
            )

    with Progress(Share(), console=Console(stderr=True), transient=True) as progress:
        progress.add_task("")
        yield
