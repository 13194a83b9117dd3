"""Metric and imperial: chosen once, shown everywhere, typed as people say them."""

from collections.abc import Iterator

import httpx
import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select

from revani.core.documents import Light, Mover
from tests.browser.conftest import Page
from tests.browser.opened import open_move
from tests.core.moving import KILN, axis, key


@pytest.fixture(autouse=True)
def metric_afterwards(client: httpx.Client) -> Iterator[None]:
    yield
    client.put("/api/measures", json={"system": "metric"}).raise_for_status()


def put(page: Page, name: str, text: str) -> None:
    page.find(f"[name='{name}']").send_keys("\ue009a\ue000" + text)


def text_of(page: Page, name: str) -> str:
    return page.find(f"[name='{name}']").get_attribute("value") or ""


def test_a_mover_is_built_axis_by_axis_in_feet_and_kept_in_millimetres(page: Page, client: httpx.Client) -> None:
    slide = axis("slide", low=0, high=1200)
    mover = Mover(name="Four-foot rail", axes=(slide,), weight_kg=2.0, payload_kg=4.0)
    client.post("/api/gear", json=mover.model_dump(mode="json")).raise_for_status()
    page.open("/kit")
    Select(page.find("[aria-label=Measures]")).select_by_visible_text("Imperial")
    page.wait(lambda d: "carries 8.818 lb" in d.find_element(By.TAG_NAME, "main").text)
    page.wait(lambda d: d.find_element(By.XPATH, "//button[.//b[text()='Four-foot rail']]").click() is None)
    assert text_of(page, "axes.0.high") == "47.24 in" and text_of(page, "weight_kg") == "4.409 lb"
    # Under another name its figures would mean something else, so they are shown bare.
    Select(page.find("[name='axes.0.name']")).select_by_visible_text("pan")
    assert text_of(page, "axes.0.high") == "1200"
    Select(page.find("[name='axes.0.name']")).select_by_visible_text("slide")
    put(page, "payload_kg", "10")
    page.wait(lambda d: d.find_element(By.XPATH, "//button[text()='Add a row']").click() is None)
    for part, text in (("low", "-90"), ("high", "90°"), ("speed", "10"), ("acceleration", "20"), ("step", "wide")):
        put(page, f"axes.1.{part}", text)
    Select(page.find("[name='axes.1.name']")).select_by_visible_text("pan")
    page.click("button[type=submit]")
    page.wait(lambda d: "pan, smallest step:" in d.find_element(By.CSS_SELECTOR, "[role=alert]").text)
    assert page.find("[name='axes.1.step']").get_attribute("aria-invalid") == "true"
    put(page, "axes.1.step", "0.01")
    page.click("button[type=submit]")
    page.wait(lambda d: not d.find_elements(By.CSS_SELECTOR, "button[type=submit]"))
    kept = {one["id"]: one["document"] for one in client.get("/api/gear").json()}[str(mover.id)]
    # What nobody typed over is kept to the last digit.
    assert kept["axes"][0]["high"] == 1200 and kept["weight_kg"] == 2.0
    assert kept["payload_kg"] == pytest.approx(4.5359237) and kept["axes"][1]["name"] == "pan"
    assert kept["axes"][1]["high"] == 90 and kept["axes"][1]["step"] == 0.01


def test_the_desk_speaks_in_what_was_chosen(page: Page, client: httpx.Client) -> None:
    client.put("/api/measures", json={"system": "imperial"}).raise_for_status()
    keys = [key(0, slide=254).model_dump(), key(18_000, slide=1016).model_dump()]
    move = {"keys": keys, "things": [KILN.model_dump()]}
    id = open_move(page, client, move=move, light=Light(aperture=2.8))
    page.until("move.keys.0.slide", "10 in")
    page.type("move.keys.1.slide", "3' 4\"\n")
    page.until("move.keys.1.slide", "40 in")
    assert "10 – 40 in" in page.find("[data-testid=move-layer]").text
    page.click("[data-testid=move-panel] summary")
    page.type("move.things.0.y_mm", "20\n")
    page.until("move.things.0.y_mm", "20 ft")
    page.wait(lambda d: "20" in d.find_element(By.CSS_SELECTOR, "[data-testid=from-above]").text)
    page.wait(lambda _: client.get(f"/api/shots/{id}").json()["document"]["move"]["things"][0]["y_mm"] == 6096)
    client.put("/api/measures", json={"system": "metric"}).raise_for_status()
    page.driver.refresh()
    page.find("[data-testid=loom]")
    page.script("document.activeElement.blur()")
    page.find("body").send_keys("3")
    page.until("move.keys.1.slide", "1,016 mm")
