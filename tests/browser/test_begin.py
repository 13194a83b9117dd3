"""From what one wants to film to the desk: an empty start, a draft, its night, and a way to make it work."""

import re

import httpx
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from revani.core.documents import Light, Thing
from revani.core.documents.timing import Timing
from tests.browser.conftest import Page
from tests.conftest import make_kit, make_place
from tests.desk import new_shot


def choose(page: Page, label: str, text: str) -> None:
    css = f'select[aria-label="{label}"]'
    page.wait(lambda d: Select(d.find_element(By.CSS_SELECTOR, css)).select_by_visible_text(text) is None or True)


def test_a_shot_is_drafted_from_what_is_wanted_and_opens_on_the_desk(page: Page, client: httpx.Client) -> None:
    # Others have left their gear in the house: this one brings its own.
    kit = make_kit(body={"name": "Drafting body"})
    new_shot(client, name="What gear there is", place=make_place(name="Drafting bay"), kit=kit)
    page.open("/begin")
    page.wait(lambda d: d.find_element(By.XPATH, "//button[.='clouds']").click() is None)
    page.wait(lambda d: "every" in d.find_element(By.CSS_SELECTOR, "[data-testid=decided]").text)
    choose(page, "Place", "Drafting bay")
    choose(page, "Body", "Drafting body")
    about = page.find('[aria-label="What it is about"]')
    about.click()
    page.keys("the causeway")
    page.keys(Keys.TAB)
    choose(page, "The film is for", "a feed")
    page.wait(lambda d: "Film 15 s" in d.find_element(By.CSS_SELECTOR, "[data-testid=decided]").text)
    # What was decided is typed over on the spot.
    interval = '[data-testid=decided] [data-field="timing.interval_s"]'
    page.click(interval)
    page.over("6 s")
    page.keys(Keys.ENTER)
    page.wait(lambda d: "a frame every 6 s" in d.find_element(By.CSS_SELECTOR, "[data-testid=decided]").text)
    page.click("[data-testid=to-the-desk]")
    page.until("timing.interval_s", "6 s")
    page.wait(lambda d: d.title == "Clouds, the causeway · Revani")
    saved = [one["document"] for one in client.get("/api/shots").json()]
    assert any(one["name"] == "Clouds, the causeway" and one["place"]["name"] == "Drafting bay" for one in saved)


def test_the_night_is_chosen_by_its_bar_and_dates_the_draft(page: Page, client: httpx.Client) -> None:
    kit = make_kit(body={"name": "Star body"})
    new_shot(client, name="Gear for stars", place=make_place(name="Dark point"), kit=kit)
    page.open("/begin")
    page.wait(lambda d: d.find_element(By.XPATH, "//button[.='stars, as trails']").click() is None)
    choose(page, "Place", "Dark point")
    choose(page, "Body", "Star body")
    page.wait(lambda d: len(d.find_elements(By.CSS_SELECTOR, "[data-night]")) == 60)
    bar = page.find("[data-night]:nth-of-type(8)")
    night = bar.get_attribute("data-night")
    ActionChains(page.driver).move_to_element(bar.find_element(By.CSS_SELECTOR, "rect")).click().perform()
    page.wait(lambda d: d.find_element(By.CSS_SELECTOR, '[aria-label="Date"]').get_attribute("value") == night)
    page.click("[data-testid=to-the-desk]")
    page.wait(lambda d: "/shots/" in d.current_url)
    page.wait(lambda _: any(one["document"]["date"] == night for one in client.get("/api/shots").json()))


def test_a_shot_that_fails_is_made_to_work_with_one_press_and_one_undo(page: Page, client: httpx.Client) -> None:
    id = new_shot(
        client, name="Too dark", timing=Timing(fps=30, interval_s=10, playback_s=20),
        light=Light(shutter_s=2, aperture=8, iso_ceiling=200),
    )  # fmt: skip
    page.open(f"/shots/{id}")
    page.until("timing.frame_count", "600 frames")
    page.click("[data-testid=open-resolve]")
    page.wait(lambda d: d.find_element(By.CSS_SELECTOR, "[data-keeps] button").click() is None)
    page.wait(lambda _: client.get(f"/api/shots/{id}").json()["document"]["light"]["iso_ceiling"] > 200)
    page.wait(lambda d: not d.find_elements(By.CSS_SELECTOR, "[role=dialog]"))
    page.click("[data-testid=undo]")
    page.wait(lambda _: client.get(f"/api/shots/{id}").json()["document"]["light"]["iso_ceiling"] == 200)


def test_an_instant_at_which_the_sun_stands_there_dates_the_shot(page: Page, client: httpx.Client) -> None:
    thing = Thing(name="Stack", x_mm=0, y_mm=4_000, width_mm=500, height_mm=900, base_mm=-500)
    id = new_shot(client, name="Behind the stack", move={"things": [thing.model_dump()]})
    page.open(f"/shots/{id}")
    page.until("timing.frame_count", "600 frames")
    page.driver.find_element(By.TAG_NAME, "body").send_keys("3")
    page.click("[data-testid=open-stands]")
    row = page.wait(lambda d: d.find_element(By.CSS_SELECTOR, "[data-testid=stands-rows] button"))
    day = row.get_attribute("aria-label").removeprefix("Film it on ")
    row.click()
    page.wait(lambda _: client.get(f"/api/shots/{id}").json()["document"]["date"] == day)
    document = client.get(f"/api/shots/{id}").json()["document"]
    assert document["start"]["by"] == "clock"


def test_a_place_in_the_finder_is_moved_by_arrows_and_pressed(page: Page, client: httpx.Client) -> None:
    id = new_shot(client, name="In the finder", framing={"heading_deg": 220, "tilt_deg": 5})
    page.open(f"/shots/{id}")
    page.until("timing.frame_count", "600 frames")
    page.driver.find_element(By.TAG_NAME, "body").send_keys("3")
    page.click("[data-testid=open-stands]")

    def told(words: str) -> None:
        page.wait(lambda _: re.search(words, page.find("[data-testid=stands]").text))

    told(r"220° from north, 5° up")
    # A hundredth of the width further to the right; 36 mm through 24 mm is 0.86° there.
    page.find("[data-testid=stands] [data-testid=framed-view]").send_keys(Keys.ARROW_RIGHT)
    told(r"220\.9° from north, 5° up")
    ActionChains(page.driver).click(page.find("[data-testid=stands] [data-testid=framed-view]")).perform()
    # The middle of the drawing, to its next pixel.
    told(r"2(19\.9|20|20\.1)° from north, (4\.9|5|5\.1)° up")


def test_a_finding_opens_to_how_it_is_known_and_leads_into_the_handbook(page: Page, client: httpx.Client) -> None:
    id = new_shot(client, name="Known", light=Light(shutter_s=2, aperture=8, iso_ceiling=200))
    page.open(f"/shots/{id}")
    page.until("timing.frame_count", "600 frames")
    page.click('[data-finding="exposure.too-dark"] summary')
    known = page.find('[data-finding="exposure.too-dark"] [data-testid=known]')
    page.wait(lambda _: "stand at their limits" in known.text and "ISO 2720" in known.text)
    known.find_element(By.TAG_NAME, "a").click()
    page.wait(lambda d: [one.get_attribute("data-rule") for one in d.find_elements(By.CSS_SELECTOR, "[data-rule]")]
              == ["exposure.too-dark"])  # fmt: skip
    search = page.find('[aria-label="Search the handbook"]')
    search.click()
    page.over("moon krisciunas")
    page.wait(lambda d: d.find_element(By.CSS_SELECTOR, "[data-rule]").get_attribute("data-rule") == "night.moon")


def test_weather_that_is_pasted_is_planned_with_and_a_wrong_line_is_named(page: Page, client: httpx.Client) -> None:
    id = new_shot(client, name="Under weather", place=make_place(name="Weather bay"))
    page.open(f"/shots/{id}")
    page.until("timing.frame_count", "600 frames")
    page.driver.find_element(By.TAG_NAME, "body").send_keys("4")
    page.click("[data-testid=open-weather]")
    page.click('[aria-label="Hours"]')
    page.over("19, 3, 99, 0, 12 m/s\n25, 2")
    page.click("[data-testid=note-weather]")
    page.wait(lambda d: "An hour such as 21" in d.find_element(By.CSS_SELECTOR, "[role=alert]").text)
    page.click('[aria-label="Hours"]')
    page.over("19, 3, 99, 0, 12 m/s\n20, 2, 99, 0, 12 m/s")
    page.click("[data-testid=note-weather]")
    page.wait(lambda d: "2 hours read" in d.find_element(By.CSS_SELECTOR, "[data-testid=weather] [role=status]").text)
    page.driver.find_element(By.TAG_NAME, "body").send_keys(Keys.ESCAPE)
    page.wait(lambda d: d.find_elements(By.CSS_SELECTOR, '[data-finding="feed.wind"]'))
    place = next(one for one in client.get("/api/places").json() if one["document"]["name"] == "Weather bay")
    assert len(place["document"]["weather"]) == 2
