"""The workbook of a pack, recalculated by LibreOffice to the same figures; the document, page by page."""

from __future__ import annotations

import subprocess
from pathlib import Path

import pypdf
import pytest
import xlsxwriter
from python_calamine import CalamineWorkbook

from conftest import Desk, needed

HOSTILE = '=HYPERLINK("http://example.invalid")'
PACK = """
[pack]
title = "=1+1"
for = "2026-02"

[source]
file = "l.csv"

[rules.spend]
better = "down"
bands = ["Over, far [worse]: change > 10% and change >= 5", "Watch [watch]: adverse > 0", "Fine [better]: otherwise"]

[[view]]
draw = "against"
name = "costs"
by = "item"
rule = "spend"

[[view]]
draw = "variance"
name = "largest"
by = "item"
band = ["Largest [watch]: rank <= 1", "Others: otherwise"]

[[view]]
draw = "statement"
name = "result"
statement = "s.toml"

[[view]]
draw = "table"
name = "january"
for = "2026-01"
statement = "s.toml"
absent = "gap"

[[view]]
draw = "table"
name = "per-day"
by = "item"
per_day = "calendar"

[[view]]
draw = "waterfall"
name = "moved"
by = "item"
versus = "prior"
"""
STATEMENT = """
[statement]
name = "Result"
income_sign = "positive"
cost_sign = "positive"
[[line]]
label = "Fares"
accounts = ["Fares"]
kind = "income"
[[line]]
label = "Costs"
accounts = ["Fuel", "Crew", "=*"]
kind = "cost"
[[line]]
label = "Result"
total_of = ["Fares", "Costs"]
[[line]]
label = "Margin %"
ratio_of = ["Result", "Fares"]
"""
# Of a file that it has not written itself it otherwise takes the results as they stand.
ALWAYS = """<?xml version="1.0" encoding="UTF-8"?>
<oor:items xmlns:oor="http://openoffice.org/2001/registry" xmlns:xs="http://www.w3.org/2001/XMLSchema">
<item oor:path="/org.openoffice.Office.Calc/Formula/Load"><prop oor:name="OOXMLRecalcMode" oor:op="fuse"><value>0</value>
</prop></item></oor:items>"""
AMOUNTS = {  # in February: actual, budget
    "Fares": ("120.10", "110.00"),
    "Fuel": ("46.00", "40.00"),
    "Crew": ("30.30", "30.00"),
    HOSTILE: ("7.00", "8.00"),
}


@pytest.fixture(scope="module")
def office(tmp_path_factory: pytest.TempPathFactory) -> Desk:
    desk = Desk(tmp_path_factory.mktemp("office"))
    rows = [
        ("2026-02-28", item, scenario, amount)
        for item, sides in AMOUNTS.items()
        for scenario, amount in zip(("actual", "budget"), sides, strict=True)
    ]
    desk.write("l.csv", [*rows, ("2026-01-31", "Fares", "actual", 1), ("2026-01-31", "Fares", "budget", 1),
                            ("2026-01-31", "Fuel", "budget", 2)],
               ("date", "item", "scenario", "net"))  # fmt: skip
    (desk.folder / "s.toml").write_text(STATEMENT)
    (desk.folder / "p.toml").write_text(PACK)
    done = desk.run("pack", "p.toml")
    assert done.status == 0, done.err
    return desk


@pytest.fixture(scope="module")
def sheets(office: Desk) -> dict[str, list[list[object]]]:
    """The sheets as LibreOffice has them once it has worked out every formula."""
    program = needed(["soffice", "libreoffice"], "libreoffice-calc")
    folder, user = office.folder / "again", office.folder / "profile" / "user"
    user.mkdir(parents=True)
    (user / "registrymodifications.xcu").write_text(ALWAYS)
    with xlsxwriter.Workbook(str(office.folder / "probe.xlsx")) as probe:
        probe.add_worksheet().write_formula(0, 0, "=1+1", None, 5)
    subprocess.run(
        [program, f"-env:UserInstallation={(office.folder / 'profile').as_uri()}", "--headless", "--convert-to", "xlsx",
         "--outdir", str(folder), str(office.folder / "probe.xlsx"), str(office.folder / "p/pack.xlsx")],
        check=True, capture_output=True, timeout=180,
    )  # fmt: skip
    # It does work them out: what was written as the result of this one is wrong.
    assert CalamineWorkbook.from_path(str(folder / "probe.xlsx")).get_sheet_by_index(0).to_python() == [[2.0]]
    book = CalamineWorkbook.from_path(str(folder / "pack.xlsx"))
    return {name: book.get_sheet_by_name(name).to_python() for name in book.sheet_names}


def test_every_formula_comes_to_the_figure_that_was_written(
    office: Desk, sheets: dict[str, list[list[object]]]
) -> None:
    written = CalamineWorkbook.from_path(str(office.folder / "p/pack.xlsx"))
    assert written.sheet_names == ["Contents", "costs", "largest", "result", "january", "per-day", "moved"]
    for name in written.sheet_names:
        for row, again in zip(written.get_sheet_by_name(name).to_python(), sheets[name], strict=False):
            for cell, other in zip(row, again, strict=False):
                assert (abs(cell - other) < 1e-9) if isinstance(cell, float) else cell == other, (name, row, again)


def test_figures_and_bands_by_hand(sheets: dict[str, list[list[object]]]) -> None:
    rows = {row[0]: row[1:6] for row in sheets["costs"]}
    # 46 − 40 = 6, 15 %; 0.3 is 1 % over: watch; −1 is fine; in all 203.4 against 188, 15.4 and 8.2 % over.
    assert rows["Fuel"][2:] == [6, 0.15, "Over, far"]
    assert rows["Crew"][4] == "Watch" and rows[HOSTILE][4] == "Fine"
    assert rows["Total"][:3] == pytest.approx([203.4, 188, 15.4]) and rows["Total"][4] == "Watch"  # type: ignore[comparison-overlap]
    lines = {row[0]: row[1:4] for row in sheets["result"]}
    # 120.1 − 83.3 = 36.8 against 110 − 78 = 32; 36.8 ÷ 120.1.
    assert lines["Result"][:2] == pytest.approx([36.8, 32]) and lines["Margin %"][0] == pytest.approx(36.8 / 120.1)
    january = {row[0]: row[1:4] for row in sheets["january"]}  # costs of which there are none count as nothing
    assert january["Costs"][0] == "n/a" and january["Result"] == [1, -1, 2]
    days = {row[0]: row[1:5] for row in sheets["per-day"]}  # 30.3 and 30 of 28 days, which no decimal is
    assert days["Crew"] == pytest.approx([30.3 / 28, 30 / 28, 0.3 / 28, 0.01], rel=1e-12)
    # Beside a waterfall a new item's change is its step, in that band; in January there were fares of 1 alone.
    moved = {row[0]: row[1:6] for row in sheets["moved"]}
    assert moved["Crew"] == [30.3, "n/a", 30.3, "new", "Rise"]
    assert moved["Total"][:3] == pytest.approx([203.4, 1, 202.4])
    notes = [row[0] for row in sheets["largest"]]
    assert any("The bands are as they were found" in str(note) for note in notes)


def test_bands_follow_the_figures(office: Desk) -> None:
    import zipfile

    with zipfile.ZipFile(office.folder / "p/pack.xlsx") as book:
        sheet = book.read("xl/worksheets/sheet2.xml").decode()
        assert all(name in book.namelist() for name in ("xl/media/image1.png", "xl/media/image3.png"))
    assert "<conditionalFormatting" in sheet and sheet.count("Over, far") >= 2
    assert "IF(AND(" in sheet.replace("&gt;", ">")
    assert "HYPERLINK" not in "".join(part.split("</f>")[0] for part in sheet.split("<f>")[1:])


def test_the_document_has_a_page_a_view(office: Desk) -> None:
    document = pypdf.PdfReader(office.folder / "p/pack.pdf")
    texts = [page.extract_text() for page in document.pages]
    assert len(texts) == 7
    assert "1 / 7" in texts[0] and "=1+1" in texts[0] and "led by" in texts[0]
    assert document.outline[0].title == "=1+1" and len(document.outline) == 7  # type: ignore[union-attr]
    assert document.trailer["/Root"]["/Lang"] == "en" and document.metadata and document.metadata.title == "=1+1"
    for page in document.pages:
        fonts = page["/Resources"]["/Font"].values()  # type: ignore[index]
        for one in fonts:
            found = one.get_object()
            inner = found.get("/DescendantFonts", [found])[0].get_object()
            assert {"/FontFile2", "/FontFile3"} & set(inner["/FontDescriptor"].get_object()), found
    assert not Path(office.folder / "p/pack.pdf").read_bytes().count(b"/Subtype /Image")
