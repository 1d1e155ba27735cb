"""`--watch`: a pack is built whenever it or a source of it changes, and shown to this machine alone."""

from __future__ import annotations

import contextlib
import functools
import http.server
import signal
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any

from marvex.core.errors import Mistake, worded
from marvex.core.words.printable import printable
from marvex.pack.pack_file import read_pack
from marvex.request.files_named import files_named, files_of
from marvex.request.from_keys import key_of
from marvex.sources.readers.places import paths_of, stamp_of

LOOPBACK = "127.0.0.1"
SHOWN = (".html", ".svg", ".png", ".json", ".csv", ".pdf", ".xlsx")
RELOAD = (
    b"<script>let was;setInterval(async()=>{try{const now=await(await fetch('/changed')).text();"
    b"if(was!==undefined&&now!==was)location.reload();was=now}catch{}},800)</script>"
)


class _Handler(http.server.SimpleHTTPRequestHandler):
    """Gives files of the folder, and nothing else, to this machine."""

    built = 0

    def do_GET(self) -> None:
        host = (self.headers.get("Host") or "").rpartition(":")[0]
        if host not in (LOOPBACK, "localhost"):  # a page elsewhere that was given this address
            self.send_error(403)
        elif self.path == "/changed":
            self._give(str(type(self).built).encode(), "text/plain")
        else:
            self._give_file()

    def _give_file(self) -> None:
        root = Path(self.directory).resolve()
        path = Path(self.translate_path(self.path))
        path = (path / "index.html" if path.is_dir() else path).resolve()
        hidden = any(part.startswith(".") for part in path.relative_to(root).parts) if root in path.parents else True
        if hidden or path.suffix not in SHOWN or not path.is_file():
            self.send_error(404)
            return
        content = path.read_bytes()
        if path.suffix == ".html":
            # The page's own policy lets no script but its own run; this one watches for the next build.
            start, end = content.index(b"<meta http-equiv"), content.index(b"<meta name=")
            content = content[:start] + content[end:] + RELOAD
        self._give(content, self.guess_type(str(path)))

    def _give(self, content: bytes, kind: str) -> None:
        self.send_response(200)
        self.send_header("Content-Type", kind)
        self.send_header("Content-Length", str(len(content)))
        self.send_header("Cache-Control", "no-store")
        self.end_headers()
        self.wfile.write(content)

    def log_message(self, *_: Any) -> None:
        """Says nothing of each file that is given."""


def watch(pack: Path, folder: Path, build: Callable[[], int], say: Callable[[str], None]) -> int:
    """Builds, and builds again at each change, until it is interrupted.

    Parameters
    ----------
    say : says where it is shown, and what is wrong.
    """
    from watchfiles import watch as changes

    folder.mkdir(parents=True, exist_ok=True)
    handler = functools.partial(_Handler, directory=str(folder))
    server = http.server.ThreadingHTTPServer((LOOPBACK, 0), handler)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    stopped = threading.Event()

    def stop(*_: Any) -> None:
        stopped.set()  # where the exception is lost in a library that cannot pass it on
        raise KeyboardInterrupt

    for name in (signal.SIGINT, signal.SIGTERM):
        signal.signal(name, stop)
    say(f"showing http://{LOOPBACK}:{server.server_port}/ until Ctrl-C")
    try:
        while not stopped.is_set():
            before = {path: stamp_of(path) for path in _inputs(pack)}
            try:
                build()
            except Mistake as mistake:
                told = worded(mistake.what, lambda field, value: key_of(field) if value is None else value)
                say(f"marvex: {printable(told)}")
            _Handler.built += 1
            wanted = _inputs(pack)
            if any(stamp_of(one) != before.get(one) for one in wanted):
                continue  # it changed while it was built
            folders = {one.parent for one in wanted}
            for changed in changes(*folders, stop_event=stopped, raise_interrupt=True, recursive=False):
                if any(Path(name).resolve() in wanted for _, name in changed):
                    break
        raise KeyboardInterrupt
    finally:
        server.shutdown()


def _inputs(path: Path) -> set[Path]:
    """The pack file and all files that it is built from."""
    found = {path.resolve()}
    try:
        views = read_pack(path).views
    except Mistake:
        return found
    for view in views:
        names = files_named(view.settings)
        for one in files_of(view.sources):
            with contextlib.suppress(Mistake):
                names += paths_of(one)
        found |= {file.resolve() for one in names if (file := path.parent / one).is_file()}
    return found
