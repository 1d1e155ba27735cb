"""The page of a pack in a browser: by mouse and keyboard, narrow and on paper, with hostile text in every place."""

from __future__ import annotations

import base64
import io
import os
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import axe_core_python
import pypdf
import pytest
from selenium import webdriver
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from conftest import Desk, needed

EVIL = "<script>window.bad=1</script><img src=x onerror=window.bad=1>"
FORMULA = "=1+1"
PACK = f"""
[pack]
title = "{EVIL} pack"
for = "2026-03"
choices = ["month", "place"]

[source]
file = "l.csv"

[[view]]
draw = "variance"
name = "items"
by = "item"
note = "{EVIL}"
remark = ["Fuel: {EVIL}"]

[[view]]
draw = "trend"
name = "months"
for = "year-to-date"
every = "month"

[[view]]
draw = "table"
name = "table"
by = "item"
title = "{{finding}} {EVIL}"
"""


def ledger(desk: Desk) -> None:
    items = ("Fuel", EVIL, FORMULA, "Crew")
    rows = [
        (
            f"2026-{month:02}-28",
            item,
            place,
            scenario,
            10 * month + 7 * place_number + number * (scenario == "actual"),
        )
        for month in (1, 2, 3)
        for number, item in enumerate(items)
        for place_number, place in enumerate(("North", f"South {EVIL}"))
        for scenario in ("actual", "budget")
    ]
    # January is below its budget, the other months are above.
    odd = [("2026-03-31", "Fuel", "North", "actual", 1), ("2026-01-31", "Fuel", "North", "actual", -500)]
    odd += [("2026-03-30", "Crew", "", "actual", 4)]
    desk.write("l.csv", [*rows, *odd], ("date", "item", "place", "scenario", "net"))


@pytest.fixture(scope="module")
def office(tmp_path_factory: pytest.TempPathFactory) -> Desk:
    desk = Desk(tmp_path_factory.mktemp("office"))
    ledger(desk)
    (desk.folder / "p.toml").write_text(PACK)
    done = desk.run("pack", "p.toml")
    assert done.status == 0, done.err
    return desk


@pytest.fixture(scope="module")
def browser() -> Iterator[webdriver.Chrome]:
    options = webdriver.ChromeOptions()
    options.binary_location = needed(["chromium", "chromium-browser", "google-chrome"], "chromium")
    driver = needed(["chromedriver"], "chromium-driver")
    for flag in ("headless", "no-sandbox", "disable-gpu", "disable-quic", "no-first-run", "disable-sync",
                 "disable-background-networking", "disable-component-update", "window-size=1280,800"):  # fmt: skip
        options.add_argument(f"--{flag}")
    options.set_capability("goog:loggingPrefs", {"browser": "ALL", "performance": "ALL"})
    os.environ.setdefault("SE_OFFLINE", "true")
    one = webdriver.Chrome(options=options, service=webdriver.ChromeService(driver))
    yield one
    one.quit()


@pytest.fixture
def page(office: Desk, browser: webdriver.Chrome) -> webdriver.Chrome:
    browser.set_window_size(1280, 800)
    browser.get("about:blank")
    browser.get((office.folder / "p/index.html").as_uri())
    return browser


def titles(page: webdriver.Chrome) -> list[str]:
    return [one.get_attribute("textContent") or "" for one in page.find_elements(By.CSS_SELECTOR, ".view h2")]


def test_no_script_of_the_data_runs_and_nothing_is_asked_of_anywhere(page: webdriver.Chrome) -> None:
    assert page.execute_script("return window.bad") is None
    assert EVIL in page.title and "pack" in page.title
    assert not page.find_elements(By.CSS_SELECTOR, "main img")
    asked = [
        entry["message"] for entry in page.get_log("performance") if "Network.requestWillBeSent" in entry["message"]
    ]
    assert not [one for one in asked if '"url":"http' in one]
    severe = [entry for entry in page.get_log("browser") if entry["level"] == "SEVERE"]
    assert not severe, severe


def test_a_mark_tells_its_sentence_to_pointer_and_keyboard(page: webdriver.Chrome) -> None:
    mark = page.find_element(By.CSS_SELECTOR, "#items .mark")
    tip = page.find_element(By.ID, "tip")
    webdriver.ActionChains(page).move_to_element(mark).perform()
    assert tip.is_displayed() and "Fuel" in tip.text and "Above budget" in tip.text
    webdriver.ActionChains(page).move_to_element(page.find_element(By.TAG_NAME, "h1")).perform()
    assert not tip.is_displayed()
    page.execute_script("arguments[0].focus()", page.find_elements(By.CSS_SELECTOR, "#items .mark")[-1])
    assert tip.is_displayed() and "against" in tip.text
    webdriver.ActionChains(page).send_keys(Keys.ESCAPE).perform()
    assert not tip.is_displayed()


def test_what_is_chosen_switches_all_and_stays_in_the_address(page: webdriver.Chrome) -> None:
    before = titles(page)
    month, place = (Select(one) for one in page.find_elements(By.CSS_SELECTOR, ".chooser select"))
    assert [one.text for one in month.options] == ["As built", "Mar 2026", "Feb 2026", "Jan 2026"]
    month.select_by_visible_text("Jan 2026")
    january = titles(page)
    assert all(one != other for one, other in zip(before, january, strict=True))
    assert "Jan 2026" in page.find_element(By.CSS_SELECTOR, "#items .subtitle").get_attribute("textContent")
    assert page.current_url.endswith("#month%3D2026-01")
    link = page.find_element(By.CSS_SELECTOR, "a[data-of=items]")
    finding = link.find_element(By.XPATH, "..")
    assert link.text == january[0] and "below budget" in link.text
    first, *rest = finding.text.split("\n")
    assert first.endswith("Below budget") and finding.get_attribute("class") == "tone-worse"
    assert "Jan 2026" in " ".join(rest)  # what was compared stands below it
    # The working of March is not under the figures of January.
    beside = [f"#items .{part}" for part in ("traces", "downloads", "elsewhere")]
    assert [page.find_element(By.CSS_SELECTOR, one).is_displayed() for one in beside] == [False, False, True]
    place.select_by_index(2)
    assert month.first_selected_option.text == "As built" and EVIL in page.find_element(By.ID, "table").text
    assert page.execute_script("return window.bad") is None
    place.select_by_visible_text("(none)")
    assert page.current_url.endswith("#place%3D") and " 4" in titles(page)[0] and titles(page) != before
    place.select_by_index(2)
    address = page.current_url
    page.get("about:blank")
    page.get(address)
    assert Select(page.find_elements(By.CSS_SELECTOR, ".chooser select")[1]).first_selected_option.text.startswith(
        "South"
    )
    # By keyboard: the first letter of a month chooses it.
    page.find_elements(By.CSS_SELECTOR, ".chooser select")[0].send_keys("F")
    assert page.current_url.endswith("2026-02")
    Select(page.find_elements(By.CSS_SELECTOR, ".chooser select")[0]).select_by_index(0)
    assert titles(page) == before
    assert [page.find_element(By.CSS_SELECTOR, one).is_displayed() for one in beside] == [True, True, False]


def test_a_table_sorts_by_figures_and_its_total_stays(page: webdriver.Chrome) -> None:
    def names() -> list[str]:
        return [one.text for one in page.find_elements(By.CSS_SELECTOR, "#table .figures-table tbody th")]

    given = names()
    assert given[-1] == "Total"
    change = page.find_elements(By.CSS_SELECTOR, "#table thead button")[3]
    assert change.text == "Change"
    page.execute_script("arguments[0].scrollIntoView({block: 'center'})", change)
    change.click()
    # Over both places the items are over by 0, 2, 4 and 6, Fuel by one more: the last first.
    assert names() == ["Crew", FORMULA, EVIL, "Fuel", "Total"]
    change.send_keys(Keys.ENTER)
    assert names() == ["Fuel", EVIL, FORMULA, "Crew", "Total"]
    assert page.find_element(By.CSS_SELECTOR, "#table th[aria-sort=ascending]").text.startswith("Change")
    change.click()
    assert names() == given
    bars = page.find_elements(By.CSS_SELECTOR, "#table .bar rect")
    assert len(bars) == 4


@pytest.mark.parametrize("chosen", ["", "#month%3D2026-02"])
def test_no_rule_of_accessibility_is_broken(page: webdriver.Chrome, chosen: str) -> None:
    page.get(page.current_url.partition("#")[0] + chosen)
    for one in page.find_elements(By.TAG_NAME, "details"):
        page.execute_script("arguments[0].open = true", one)
    page.execute_script((Path(axe_core_python.__file__).parent / "axe.min.js").read_text())
    found = page.execute_async_script("axe.run().then(arguments[0])")
    broken = [(one["id"], [node["html"][:120] for node in one["nodes"]][:3]) for one in found["violations"]]
    assert not broken, broken


def test_it_is_read_on_a_narrow_screen(page: webdriver.Chrome) -> None:
    page.execute_cdp_cmd("Emulation.setDeviceMetricsOverride",
                         {"width": 390, "height": 844, "deviceScaleFactor": 1, "mobile": True})  # fmt: skip
    try:
        assert page.execute_script("return document.documentElement.scrollWidth") <= 390
        sizes = page.execute_script(
            "return [...document.querySelectorAll('main p, main li, main td, main summary')]"
            ".map(one => parseFloat(getComputedStyle(one).fontSize))"
        )
        assert min(sizes) >= 14
    finally:
        page.execute_cdp_cmd("Emulation.clearDeviceMetricsOverride", {})


def test_on_paper_no_picture_is_cut(page: webdriver.Chrome) -> None:
    made: dict[str, Any] = page.execute_cdp_cmd("Page.printToPDF", {"preferCSSPageSize": True})
    document = pypdf.PdfReader(io.BytesIO(base64.b64decode(made["data"])))
    width, height = (float(one) for one in document.pages[0].mediabox[2:])
    assert (round(width), round(height)) == (595, 842)  # A4
    # A picture is whole where its title and its foot are on one page.
    texts = ["".join(one.extract_text().split()) for one in document.pages]
    for title, foot in (("ledby", "Source:l.csv,"), ("Changeonbudget", "Source:l.csv,")):
        assert any(title in text and text.index(title) < text.rindex(foot) for text in texts if foot in text), texts
