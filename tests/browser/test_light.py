"""The step Light of the desk, as a person works it."""

import httpx
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By

from revani.core.documents import Light
from tests.browser.conftest import Page
from tests.desk import new_shot


def open_light(page: Page, client: httpx.Client, **light: object) -> str:
    values = {"aperture": 2.8, "iso_ceiling": 3200, "shutter_s": 20} | light
    id = new_shot(client, light=Light.model_validate(values))
    page.open(f"/shots/{id}")
    page.until("timing.frame_count", "600 frames")
    page.script("document.activeElement.blur()")
    page.find("body").send_keys("2")
    page.find("[data-testid=schools]")
    return id


def test_a_school_is_chosen_with_one_click_and_undone(page: Page, client: httpx.Client) -> None:
    open_light(page, client)
    assert len(page.driver.find_elements(By.CSS_SELECTOR, "[data-school]")) == 5
    page.click("[data-school='automatic'] button")
    page.find('[data-finding="exposure.flicker"]')
    assert page.find('[data-field="light.school"]').get_attribute("value") == "leave all of it to the body"
    page.click("[data-testid=undo]")
    page.wait(lambda d: d.find_element(By.CSS_SELECTOR, "[data-school='continuous']").text.endswith("chosen"))


def test_a_limit_is_dragged_by_thirds_and_a_wish_is_set_and_typed(page: Page, client: httpx.Client) -> None:
    id = open_light(page, client)
    handle = page.find("[data-handle='light.iso_ceiling'] rect")
    page.script("arguments[0].scrollIntoView({block: 'center'})", handle)
    ActionChains(page.driver).click_and_hold(handle).move_by_offset(0, 6).move_by_offset(0, 6).release().perform()
    page.wait(lambda _: 100 <= int(page.value("light.iso_ceiling")) < 3200)
    page.click("[data-testid=add-wish]")
    page.find("[data-testid=light-post]")
    page.type("light.keys.0", "-0.7 at 18:30\n")
    page.until("light.keys.0", "−0.7 at 18:30")

    def stored() -> dict:  # type: ignore[type-arg]
        return client.get(f"/api/shots/{id}").json()["document"]["light"]

    page.wait(lambda _: stored()["keys"][0]["bias_stops"] == -0.7)
    assert stored()["iso_ceiling"] < 3200


def test_a_meter_reading_calibrates_the_scene_and_a_wrong_one_is_refused_at_its_field(
    page: Page, client: httpx.Client
) -> None:
    open_light(page, client)
    page.click("[data-testid=open-reading]")
    for name, text in (("clock", "08:15"), ("aperture", "8"), ("shutter", "1/60")):
        page.find(f"input[name={name}]").send_keys(text)
    page.click("[data-testid=take-reading]")
    page.wait(lambda d: "Give aperture, shutter and ISO" in d.find_element(By.CSS_SELECTOR, "[role=alert]").text)
    page.find("input[name=iso]").send_keys("100")
    page.click("[data-testid=take-reading]")
    page.wait(lambda d: "EV 12," in d.find_element(By.CSS_SELECTOR, "[data-testid=reading]").text)


def test_the_interval_is_taken_from_the_subject(page: Page, client: httpx.Client) -> None:
    page.open(f"/shots/{new_shot(client)}")
    page.until("timing.frame_count", "600 frames")
    page.click("[data-testid=open-subject]")
    page.find("input[name=speed]").send_keys("1.4")
    page.find("input[name=distance]").send_keys("500")
    page.wait(lambda d: "of the width" in d.find_element(By.CSS_SELECTOR, "[data-reads=smooth]").text)
    page.click("[data-reads=smooth]")
    page.wait(lambda _: page.value("timing.interval_s") not in ("30 s", ""))
    assert page.value("timing.frame_count") == "600 frames"
