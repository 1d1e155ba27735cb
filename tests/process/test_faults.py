"""Whatever happens in the middle: each file is as it was or as it was to be, and nothing else is left.

`make faults` asks for 200 kills instead of these few.
"""

from __future__ import annotations

import os
import random
import shutil
import signal
import subprocess
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from conftest import DEMO, MARVEX, Desk
from marvex.app.outputs import _Draft as Draft

KILLS = int(os.environ.get("MARVEX_KILLS", "4"))
STARTED = 0.4  # seconds
PICTURE = ("draw", "variance", str(DEMO), "--by", "route", "-q", "--versus", "year-ago")
TABLE = ("table", str(DEMO), "--by", "account", "-q", "--versus", "year-ago")
CALLS = {PICTURE: ("p.svg", "p.png", "p.json"), TABLE: ("t.xlsx", "t.csv", "t.json")}


def outputs(names: tuple[str, ...]) -> list[str]:
    return [word for name in names for word in ("--figures" if name.endswith(".json") else "-o", name)]


def contents(folder: Path) -> dict[str, bytes]:
    return {path.name: path.read_bytes() for path in folder.iterdir()}


@pytest.mark.parametrize("words", CALLS)
def test_killed_at_any_moment_each_file_is_the_old_or_the_new(desk: Desk, words: tuple[str, ...]) -> None:
    call = [MARVEX, *words, *outputs(CALLS[words])]
    before = time.monotonic()
    assert subprocess.run(call, cwd=desk.folder, check=False).returncode == 0
    took = time.monotonic() - before
    new, chance = contents(desk.folder), random.Random(17)
    assert set(new) == set(CALLS[words])
    killed = 0
    for attempt in range(KILLS // 2):
        for name in new:
            (desk.folder / name).write_bytes(b"old")
        with subprocess.Popen(call, cwd=desk.folder, stderr=subprocess.DEVNULL) as running:
            # Half of the moments are near the end, when files are written.
            # Before that, until Python itself has started, no one but Python says how it ends.
            time.sleep(max(STARTED, took * (chance.uniform(0.85, 1.05) if attempt % 2 else chance.uniform(0, 0.8))))
            running.send_signal(chance.choice((signal.SIGKILL, signal.SIGTERM, signal.SIGINT)))
        killed += running.returncode != 0
        assert running.returncode in (0, 130, -signal.SIGKILL)
        found = contents(desk.folder)
        assert set(found) == set(new)
        for name, content in found.items():
            assert content in (b"old", new[name]), name
        if running.returncode == 130:
            assert set(found.values()) == {b"old"}
    assert killed


def test_an_interruption_while_files_are_put_into_place_is_too_late(
    desk: Desk, monkeypatch: pytest.MonkeyPatch
) -> None:
    place = Draft.place

    def disturbed(draft: Draft) -> None:
        place(draft)
        os.kill(os.getpid(), signal.SIGINT)

    monkeypatch.setattr(Draft, "place", disturbed)
    assert desk.run(*TABLE, *outputs(CALLS[TABLE])).status == 0
    assert set(contents(desk.folder)) == set(CALLS[TABLE])

    # But where the next build is waited for it is not lost.
    desk.write("l.csv", [("Rent", 70, 60), ("Wages", 30, 40)], ("item", "Actual", "Budget"))
    (desk.folder / "p.toml").write_text('[source]\nfile = "l.csv"\n[[view]]\ndraw = "table"\n')
    handlers = {one: signal.getsignal(one) for one in (signal.SIGINT, signal.SIGTERM)}
    again = threading.Timer(30, os.kill, (os.getpid(), signal.SIGINT))
    again.start()
    try:
        assert desk.run("pack", "p.toml", "--watch").status == 130
        assert again.is_alive() and (desk.folder / "p/index.html").is_file()
    finally:
        again.cancel()
        for one, handler in handlers.items():
            signal.signal(one, handler)


@pytest.fixture
def small_disk(tmp_path: Path) -> Iterator[Path | None]:
    """A disk of 64 kB, where one may be mounted."""
    disk = tmp_path / "disk"
    disk.mkdir()
    mount = ["mount", "-t", "tmpfs", "-o", "size=64k", "tmpfs", str(disk)]
    if not shutil.which("mount") or subprocess.run(mount, capture_output=True, check=False).returncode:
        yield None
        return
    yield disk
    subprocess.run(["umount", str(disk)], check=True)


def test_on_a_full_disk_nothing_is_left_and_the_old_stays(small_disk: Path | None, desk: Desk) -> None:
    place, why = small_disk or desk.folder / "disk", "No space left on device"
    call = [MARVEX, *PICTURE, "-o", str(place / "p.svg"), "-o", str(place / "p.png")]
    if small_disk is None:  # a file may then be so long at most
        call, why = ["sh", "-c", 'ulimit -f 16; exec "$@"', "sh", *call], "File too large"
    (place / "p.svg").write_bytes(b"old")
    (place / "filler").write_bytes(b"x" * 40_000)
    done = subprocess.run(call, capture_output=True, text=True, check=False)
    assert done.returncode == 2
    assert why in done.stderr and len(done.stderr.splitlines()) <= 2
    assert sorted(contents(place)) == ["filler", "p.svg"] and (place / "p.svg").read_bytes() == b"old"
    if small_disk is not None:
        subprocess.run(["mount", "-o", "remount,ro", str(place)], check=True)
        done = subprocess.run(call, capture_output=True, text=True, check=False)
        assert (done.returncode, done.stderr.splitlines()[0][-18:]) == (2, "cannot be written.")


def waiting(desk: Desk, *words: str) -> subprocess.Popen[bytes]:
    """A process that has read its files and now waits for standard input."""
    running = subprocess.Popen(
        [MARVEX, *words], cwd=desk.folder, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.PIPE
    )
    at = Path(f"/proc/{running.pid}/wchan")  # what it sleeps in, where the system tells
    until = time.monotonic() + (60 if at.exists() else 3)
    while time.monotonic() < until and not (at.exists() and at.read_text().endswith("pipe_read")):
        time.sleep(0.1)
    return running


def test_a_source_that_changes_while_it_is_read_is_noticed(desk: Desk) -> None:
    desk.write("a.csv", [("Fuel", 5), ("Crew", 7)], ("item", "net"))
    words = ("table", "actual=a.csv", "budget=-", "--by", "item", "-o", "t.csv")
    for text, status in (("", 0), ("Pilots,4\n", 2)):
        with waiting(desk, *words) as running:
            with (desk.folder / "a.csv").open("a") as file:
                file.write(text)
            _, told = running.communicate(b"item,net\nFuel,4\nCrew,6\n", timeout=60)
        assert running.returncode == status, told
    assert told.startswith(b"marvex: a.csv was changed while it was read.")


def test_a_folder_that_vanishes_is_told_of(desk: Desk) -> None:
    (desk.folder / "out").mkdir()
    with waiting(desk, "table", "-", "--by", "item", "--versus", "none", "-o", "out/t.csv") as running:
        (desk.folder / "out").rmdir()
        _, told = running.communicate(b"item,net\nFuel,4\nCrew,6\n", timeout=60)
    assert running.returncode == 2
    assert told.splitlines()[-2] == b"marvex: 'out/t.csv' cannot be written: No such file or directory."


def test_of_two_runs_that_write_one_file_each_leaves_it_whole(desk: Desk) -> None:
    calls = [[MARVEX, *words, "--figures", "f.json"] for words in CALLS]
    wholes = []
    for call in calls:
        subprocess.run(call, cwd=desk.folder, check=True)
        wholes.append((desk.folder / "f.json").read_bytes())
    for _ in range(max(1, KILLS // 20)):
        both = [subprocess.Popen(call, cwd=desk.folder) for call in calls]
        assert [one.wait(60) for one in both] == [0, 0]
        assert (desk.folder / "f.json").read_bytes() in wholes
        assert {path.name for path in desk.folder.iterdir()} == {"f.json", "variance.png"}
