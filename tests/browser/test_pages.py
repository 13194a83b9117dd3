"""Every page in every theme: accessible, and at home on this machine."""

import json
from pathlib import Path
from urllib.parse import urlsplit

import httpx
import pytest
from selenium.webdriver.common.by import By

from revani.core.documents import Light, Move
from revani.core.documents.timing import Timing
from tests.browser.conftest import Page
from tests.conftest import make_place
from tests.core.moving import KILN, key, moving_kit
from tests.desk import new_shot
from tests.runs import arm, saved, short, until_state

AXE = (Path(__file__).parent.parent.parent / "web" / "node_modules" / "axe-core" / "axe.min.js").read_text()


@pytest.fixture(scope="module")
def addresses(client: httpx.Client) -> dict[str, str]:
    """Each page, on data that shows most of its parts."""
    troubled = new_shot(
        client,
        name="Troubled",
        light=Light(school="fixed", aperture=2.8),
        timing=Timing(fps=30, interval_s=1, playback_s=2),
    )
    run = until_state(client, arm(client, saved(client, **short(10))), "finished")
    return {
        "tonight": "/", "shots": "/shots", "desk": f"/shots/{troubled}", "run": f"/runs/{run['id']}",
        "review": f"/runs/{run['id']}/review", "kit": "/kit", "places": "/places", "logbook": "/logbook",
    }  # fmt: skip


def grave_faults(page: Page) -> list[str]:
    """What axe-core finds serious or critical on the page as it stands."""
    page.script(AXE)
    found = page.driver.execute_async_script(
        "const done = arguments[arguments.length - 1]; axe.run(document, {resultTypes: ['violations']}).then(done)"
    )
    return [
        f"{one['id']}: {node['html'][:120]} {node['failureSummary'][:160]}"
        for one in found["violations"]
        if one["impact"] in ("serious", "critical")
        for node in one["nodes"][:3]
    ]


@pytest.mark.parametrize("theme", ["day", "night", "red"])
def test_axe_finds_nothing_serious_in_the_steps_light_and_move(page: Page, client: httpx.Client, theme: str) -> None:
    move = Move.model_validate(
        {
            "keys": [key(0, slide=100).model_dump(), key(9000, 600, slide=5000).model_dump()],
            "things": [KILN.model_dump()],
        }
    )
    id = new_shot(client, kit=moving_kit(), move=move, light=Light(aperture=2.8, angle_deg=180))
    page.open("/favicon.svg")
    page.script("localStorage.setItem('revani-theme', arguments[0])", theme)
    page.open(f"/shots/{id}")
    page.until("timing.frame_count", "600 frames")
    page.script("document.activeElement.blur()")
    for pressed, part in (("2", "light-panel"), ("3", "move-panel")):
        page.find("body").send_keys(pressed)
        page.find(f"[data-testid={part}]")
        assert not grave_faults(page)


@pytest.mark.parametrize("theme", ["day", "night", "red"])
@pytest.mark.parametrize("name", ["tonight", "shots", "desk", "run", "review", "kit", "places", "logbook"])
def test_axe_finds_nothing_serious(page: Page, addresses: dict[str, str], name: str, theme: str) -> None:
    page.open("/favicon.svg")
    page.script("localStorage.setItem('revani-theme', arguments[0])", theme)
    page.open(addresses[name])
    page.find("h1")
    if name == "desk":
        page.find("[data-finding]")
    assert not grave_faults(page)
    assert page.script("return document.documentElement.dataset.theme") == theme


def test_no_page_asks_another_machine_for_anything_or_complains_in_the_console(
    page: Page, addresses: dict[str, str]
) -> None:
    page.driver.get_log("performance")
    page.driver.get_log("browser")
    for address in addresses.values():
        page.open(address)
        page.find("h1")
    asked = set()
    for entry in page.driver.get_log("performance"):
        message = json.loads(entry["message"])["message"]
        if message["method"] == "Network.requestWillBeSent":
            url = urlsplit(message["params"]["request"]["url"])
            if url.scheme not in ("data", "blob"):
                asked.add(url.netloc)
    assert asked == {urlsplit(page.home).netloc}
    assert [entry["message"] for entry in page.driver.get_log("browser") if entry["level"] == "SEVERE"] == []


def test_a_place_is_edited_refused_beside_its_field_and_saved(page: Page, client: httpx.Client) -> None:
    place = make_place(name="Editable cove")
    client.post("/api/places", json=place.model_dump(mode="json"))
    page.open("/places")
    page.wait(lambda d: d.find_element(By.XPATH, "//button[.//b[text()='Editable cove']]").click() is None)
    latitude = page.find("input[name=latitude_deg]")
    latitude.send_keys("\ue009a\ue000" + "95")
    page.click("button[type=submit]")
    page.wait(lambda d: "90" in d.find_element(By.CSS_SELECTOR, "[role=alert]").text)
    assert page.find("input[name=latitude_deg]").get_attribute("aria-invalid") == "true"
    page.find("input[name=latitude_deg]").send_keys("\ue009a\ue000" + "58.25")
    page.click("button[type=submit]")
    page.wait(lambda d: not d.find_elements(By.CSS_SELECTOR, "button[type=submit]"))
    stored = {one["id"]: one for one in client.get("/api/places").json()}[str(place.id)]
    assert stored["document"]["latitude_deg"] == 58.25 and stored["version"] == 2


def test_a_shot_saved_in_another_tab_offers_both_versions(page: Page, client: httpx.Client) -> None:
    id = new_shot(client, name="Two tabs")
    page.open(f"/shots/{id}")
    page.until("timing.frame_count", "600 frames")
    document = client.get(f"/api/shots/{id}").json()["document"]
    document["timing"]["interval_s"] = 45
    client.put(f"/api/shots/{id}", json=document, headers={"If-Match": "1"}).raise_for_status()
    page.type("timing.interval_s", "50\n")
    page.wait(lambda d: "saved elsewhere" in d.find_element(By.CSS_SELECTOR, "[data-testid=saving]").text)
    page.wait(lambda d: d.find_element(By.XPATH, "//button[text()='Take what is there']").click() is None)
    page.until("timing.interval_s", "45 s")
    assert client.get(f"/api/shots/{id}").json()["version"] == 2


def test_the_shortcuts_sheet_and_the_lenses_answer_the_keyboard(page: Page, client: httpx.Client) -> None:
    page.open(f"/shots/{new_shot(client)}")
    page.until("timing.frame_count", "600 frames")
    page.script("document.activeElement.blur()")
    page.find("body").send_keys("?")
    page.wait(lambda d: "By keyboard" in d.find_element(By.CSS_SELECTOR, "[data-testid=shortcuts]").text)
    page.find("body").send_keys("\ue00c")
    page.wait(lambda d: not d.find_elements(By.CSS_SELECTOR, "[data-testid=shortcuts]"))
    page.find("body").send_keys("2")
    page.wait(lambda d: d.find_element(By.XPATH, "//button[@aria-pressed='true']").text == "Light")
    loom = page.find("[data-testid=loom]")
    loom.click()
    loom.send_keys("\ue010")
    page.wait(lambda d: "600" in d.find_element(By.CSS_SELECTOR, "[data-testid=readout]").text)
    threads = page.find("[data-testid=threads]").get_attribute("d")
    loom.send_keys("+++")
    page.wait(lambda d: d.find_element(By.CSS_SELECTOR, "[data-testid=threads]").get_attribute("d") != threads)
