"""A body that fires itself: its modes typed into Kit, its menu on the desk, its dial card, its run by the clock."""

import httpx
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from revani.core.documents import Body, ClockStart, Light, Mode
from revani.core.documents.timing import Timing
from tests.browser.conftest import Page
from tests.conftest import make_kit
from tests.desk import new_shot

STILLS = Mode(name="Interval", intervals=(2, 5, 10, 30))
NIGHT = Mode(name="Night", intervals=(10, 30), manual=False, raw=False, forgets="its interval")


def choose(page: Page, field: str, text: str) -> None:
    def look(driver) -> bool:  # type: ignore[no-untyped-def]
        Select(driver.find_element(By.CSS_SELECTOR, f'[data-field="{field}"]')).select_by_visible_text(text)
        return True

    page.wait(look)


def test_a_plan_snaps_to_what_the_body_offers_and_its_dial_card_says_what_to_set(
    page: Page, client: httpx.Client
) -> None:
    kit = make_kit(body={"modes": (STILLS, NIGHT), "overhead_s": "0.4", "minimum_interval_s": 1, "bulb": False})
    id = new_shot(
        client, name="By itself", kit=kit, timing=Timing(fps=30, interval_s=7, frame_count=300),
        light=Light(aperture=2.8, iso_ceiling=1600), start=ClockStart(time="20:00"),
    )  # fmt: skip
    page.open(f"/shots/{id}")
    page.until("timing.frame_count", "300 frames")
    assert page.driver.find_elements(By.CSS_SELECTOR, "[data-testid=dial-card]") == []
    choose(page, "fires", "by its own timer")
    # A ramp cannot be told and 7 s are not on its menu: both are brought to the nearest, and that is told.
    page.wait(lambda d: "every 5 s" in d.find_element(By.CSS_SELECTOR, "[data-testid=brought]").text)
    assert "leave all of it to the body" in page.find("[data-testid=brought]").text
    page.until("timing.frame_count", "300 frames")
    card = page.find("[data-testid=dial-card]").text
    assert card.index("mode") < card.index("interval") < card.index("white balance") < card.index("press")
    menu = [one.text for one in Select(page.find('[data-field="timing.interval_s"]')).options]
    assert menu == ["2 s", "5 s", "10 s", "30 s"]
    choose(page, "mode", "Night")
    page.wait(lambda d: "kept as JPEG" in d.find_element(By.CSS_SELECTOR, "[data-testid=brought]").text)
    page.wait(lambda d: "forgets its interval" in d.find_element(By.CSS_SELECTOR, "[data-testid=dial-card]").text)
    page.click("[data-testid=undo]")
    page.wait(lambda d: "forgets" not in d.find_element(By.CSS_SELECTOR, "[data-testid=dial-card]").text)
    page.wait(lambda _: client.get(f"/api/shots/{id}").json()["document"]["fires"] == "own timer")


def test_a_table_of_modes_is_typed_row_by_row(page: Page, client: httpx.Client) -> None:
    body = Body(name="Sprig 1")
    client.post("/api/gear", json=body.model_dump(mode="json")).raise_for_status()
    page.open("/kit")
    page.wait(lambda d: d.find_element(By.XPATH, "//button[.//b[text()='Sprig 1']]").click() is None)
    page.wait(lambda d: d.find_element(By.XPATH, "//button[text()='Add a row']").click() is None)
    typed = {"name": "Night photo", "pixels_wide": "4000", "pixels_high": "3000", "intervals": "10 5"}
    for part, text in typed.items():
        page.click(f"[name='modes.0.{part}']")
        page.over(text)
    page.find("[name='modes.0.intervals']").send_keys(Keys.TAB)
    choose_in_table = Select(page.find("[name='modes.0.projection']"))
    choose_in_table.select_by_visible_text("equidistant")
    page.click("[name='modes.0.raw']")
    page.click("button[type=submit]")
    page.wait(lambda d: "own intervals" in d.find_element(By.CSS_SELECTOR, "[role=alert]").text)
    page.click("[name='modes.0.intervals']")
    page.over("5 10 30")
    page.click("button[type=submit]")
    page.wait(lambda d: not d.find_elements(By.CSS_SELECTOR, "button[type=submit]"))
    kept = next(one["document"] for one in client.get("/api/gear").json() if one["id"] == str(body.id))
    (mode,) = kept["modes"]
    assert (mode["name"], mode["pixels_wide"], mode["intervals"]) == ("Night photo", 4000, [5, 10, 30])
    assert (mode["projection"], mode["raw"], mode["manual"]) == ("equidistant", False, True)


def test_what_comes_out_is_compared_and_chosen_with_one_press(page: Page, client: httpx.Client) -> None:
    lapse = Mode(name="Lapse", makes="own lapse film", raw=False, pixels_wide=3840, pixels_high=2160, intervals=(2, 5))
    kit = make_kit(body={"modes": (STILLS, lapse), "overhead_s": "0.4", "minimum_interval_s": 1, "bulb": False})
    id = new_shot(
        client, name="Either way", kit=kit, timing=Timing(fps=30, interval_s=5, frame_count=300),
        light=Light(school="automatic", aperture=2.8, iso_ceiling=1600), start=ClockStart(time="20:00"),
    )  # fmt: skip
    page.open(f"/shots/{id}")
    page.until("timing.frame_count", "300 frames")
    page.driver.find_element(By.TAG_NAME, "body").send_keys("4")
    page.wait(lambda d: "chosen" in d.find_element(By.CSS_SELECTOR, "[data-output=raw]").text)
    page.click('[data-output="its own film"] button')
    page.wait(lambda d: "chosen" in d.find_element(By.CSS_SELECTOR, '[data-output="its own film"]').text)
    page.wait(lambda _: client.get(f"/api/shots/{id}").json()["document"]["fires"] == "own lapse film")
    page.click("[data-output=JPEG] button")
    page.wait(lambda d: "chosen" in d.find_element(By.CSS_SELECTOR, "[data-output=JPEG]").text)
    document = page.wait(
        lambda _: (now := client.get(f"/api/shots/{id}").json()["document"])["keeps"] == "JPEG" and now
    )
    assert (document["fires"], document["mode"]) == ("own timer", "Interval")


def test_decisions_on_the_body_are_words_and_have_consequences(page: Page, client: httpx.Client) -> None:
    id = new_shot(client, name="Decided", timing=Timing(fps=30, interval_s=5, frame_count=300))
    page.open(f"/shots/{id}")
    page.until("timing.frame_count", "300 frames")
    page.driver.find_element(By.TAG_NAME, "body").send_keys("4")
    choose(page, "take.focus", "single")
    page.wait(lambda d: "hunts from frame to frame" in d.find_element(By.CSS_SELECTOR, "[data-testid=findings]").text)
    page.wait(lambda d: d.find_element(By.XPATH, "//button[contains(., 'Focus by hand')]").click() is None)
    page.wait(lambda _: client.get(f"/api/shots/{id}").json()["document"]["take"]["focus"] == "manual")
    page.write("take.codec", "10 bit", leave=Keys.TAB)
    page.wait(lambda _: client.get(f"/api/shots/{id}").json()["document"]["take"]["codec"] == "10 bit")
