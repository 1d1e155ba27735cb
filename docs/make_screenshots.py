"""Draws the pictures in docs/screenshots/ again from the demo data: `make screenshots`.

The table is photographed in a terminal window, which needs Xvfb, xterm and ImageMagick's `import`, and the page of
the pack in Chromium.
"""

from __future__ import annotations

import os
import shlex
import subprocess
import sys
import tempfile
import time
from pathlib import Path

SHOTS = Path(__file__).parent / "screenshots"
MARVEX = str(Path(sys.executable).parent / "marvex")

BY_ROUTE = "draw waterfall ledger.csv --by route --for 2026 --versus 2025"
INCOME = "--versus year-ago --where kind=income"
FUEL = "--every month --where account_name=Fuel --source-sign negative --better down"
PICTURES = {
    "waterfall-statement": "draw waterfall ledger.csv --statement statement.toml --versus budget "
    "--subtotal-after 'Other income'",
    "waterfall-in-panels": "draw waterfall ledger.csv --statement statement.toml --panels-by route --own-scale",
    "waterfall-found": "draw waterfall results.csv --versus none",
    "against-costs": "draw against ledger.csv --by account_name --where kind=cost --source-sign negative --better down "
    "--order current --keep top:9 --arrows",
    "nine-months": "draw against fares.csv --amount fares --every month --for FY2024 --year-starts october "
    "--versus year-ago",
    "paired-fuel": f"draw paired ledger.csv {FUEL}",
    "trend-income": "draw trend ledger.csv --every month --for 2025/2026 --of actual+forecast --versus budget "
    "--where kind=income --base-as area --labels flagged",
    "variance-days": "draw variance ledger.csv --every day --for 2026 --versus year-ago --match weekday "
    "--where 'account_name=Passenger fares' --units one",
    "shift-routes": f"draw shift ledger.csv --by route {INCOME} --order current",
    "statement": "draw statement ledger.csv --statement statement.toml --every month --for 2026 --of actual+forecast",
}
COSTS = (
    "draw waterfall ledger.csv --by account_name --where kind=cost --source-sign negative --better down "
    "--band 'Overspend [worse]: change > 5% and change > 10k' --band 'Watch [watch]: change > 0' "
    "--band 'Within budget [better]: otherwise'"
)
TABLE = "table ledger.csv --by route --versus year-ago --versus budget -q"
COMMENTARY = (
    "commentary ledger.csv --by account_name --then-by route --where kind=cost "
    "--source-sign negative --better down -q"
)
TRACE = "trace ledger.csv --by account_name --where kind=cost --source-sign negative --better down --at Fuel -q"


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        subprocess.run([MARVEX, "demo", folder, "-q"], check=True, stdout=subprocess.DEVNULL)
        for command, name in (
            (BY_ROUTE, "waterfall-by-route"),
            (COSTS, "waterfall-costs-in-tiers"),
            (f"{BY_ROUTE} --style dark", "waterfall-dark"),
            *((command, name) for name, command in PICTURES.items()),
        ):
            words = [*shlex.split(command), "-q", "-o", str(SHOTS / f"{name}.png")]
            subprocess.run([MARVEX, *words], check=True, cwd=folder)
        page(Path(folder) / "pack" / "index.html", "pack-page")
        terminal(TABLE, "table", folder)
        terminal(COMMENTARY, "commentary", folder, columns=112, rows=28)
        terminal("table october.csv -q", "table-found", folder, columns=112, rows=34)
        terminal("survey ledger.csv -q", "survey", folder, columns=102, rows=55)
        terminal(TRACE, "trace", folder, columns=112, rows=30)


def page(path: Path, name: str) -> None:
    """A page in a browser, as it opens."""
    with tempfile.TemporaryDirectory() as profile:
        flags = ("headless", "no-sandbox", "disable-gpu", "hide-scrollbars", "disable-background-networking")
        asked = [f"--{one}" for one in flags] + ["--window-size=1280,800", f"--user-data-dir={profile}"]
        subprocess.run(
            ["chromium", *asked, f"--screenshot={SHOTS / f'{name}.png'}", path.as_uri()],
            check=True,
            stderr=subprocess.DEVNULL,
        )


def terminal(command: str, name: str, folder: str, columns: int = 152, rows: int = 20) -> None:
    """What a command prints, photographed in a terminal window."""
    display = ":87"
    printed = Path(tempfile.mkdtemp()) / "printed"
    said = command.removesuffix(" -q")
    script = f"clear; printf '$ marvex {said}\\n\\n'; {MARVEX} {command}; touch {printed}; sleep 60"
    screen = subprocess.Popen(["Xvfb", display, "-screen", "0", "1400x1100x24"], stderr=subprocess.DEVNULL)
    environment = {**os.environ, "DISPLAY": display, "TERM": "xterm-256color", "LC_ALL": "C.UTF-8"}
    environment.pop("NO_COLOR", None)
    font = ("-fa", "DejaVu Sans Mono", "-fs", "10", "-bg", "#FFFFFF", "-fg", "#22242C", "-b", "14")
    colours = (
        "-xrm",
        "XTerm*color6: #1F816F",
        "-xrm",
        "XTerm*color5: #870C42",
        "-xrm",
        "XTerm*color8: #6A6B73",
    )
    time.sleep(1)
    window = subprocess.Popen(
        ["xterm", "-u8", "-geometry", f"{columns}x{rows}", *font, *colours, "-e", "sh", "-c", script],
        cwd=folder,
        env=environment,
    )
    try:
        until = time.monotonic() + 60
        while not printed.exists() and time.monotonic() < until:
            time.sleep(0.2)
        time.sleep(1)  # until it is drawn
        photograph = ["import", "-window", "root", "-trim", str(SHOTS / f"{name}.png")]
        subprocess.run(photograph, env=environment, check=True)
    finally:
        for process in (window, screen):
            process.terminate()
            process.wait()


if __name__ == "__main__":
    main()
