"""A rehearsed film on its page: made, stopped on a frame, kept."""

import httpx
from selenium.webdriver.common.keys import Keys

from revani.core.documents.timing import Timing
from tests.browser.conftest import Page, text_of
from tests.desk import new_shot


def test_the_film_is_made_and_says_why_a_frame_looks_as_it_does(page: Page, client: httpx.Client) -> None:
    id = new_shot(client, name="Rehearse me", timing=Timing(fps=30, interval_s=60, frame_count=40))
    page.open(f"/shots/{id}")
    page.find("[data-testid=rehearse]").click()
    film = page.wait(lambda d: d.find_element("css selector", "[data-testid=rehearsed]"), 120)
    page.wait(lambda _: page.script("return arguments[0].readyState", film) >= 2)
    assert page.script("return arguments[0].videoWidth", film) == 480
    assert abs(page.script("return arguments[0].duration", film) - 40 / 30) < 0.05
    page.wait(lambda d: "shutter" in text_of("[data-testid=this-frame]")(d))
    page.find("[aria-label='One frame on']").click()
    page.wait(lambda d: "frame 2 of 40" in d.find_element("css selector", "main").text)
    first = page.find("[data-testid=this-frame]").text
    for _ in range(3):
        page.find("[aria-label='One frame on']").click()
    page.wait(lambda d: text_of("[data-testid=this-frame]")(d) != first)
    assert page.find("[data-testid=ruled-by]").text
    # Its light, and lines over the picture where they are wanted.
    assert "white" in page.find("[data-testid=spread]").text
    page.click("[data-tick=lines]")
    page.wait(lambda d: d.find_element("css selector", "[data-testid=lines] polyline").get_attribute("points"))
    page.click("[data-tick=zebra]")
    page.click("[data-tick=loupe]")
    loupe = page.find("[data-testid=loupe]")
    piece = loupe.find_element("css selector", "img")
    page.wait(lambda _: page.script("return arguments[0].naturalWidth", piece) == 320)
    before = piece.get_attribute("src")
    loupe.send_keys(Keys.ARROW_RIGHT)
    page.wait(lambda _: piece.get_attribute("src") != before)
    page.click("[data-tick=loupe]")
    # What would be left if something went wrong is another film.
    page.find("[data-testid=practice] summary").click()
    page.find("[data-tick='an hour is missed']").click()
    page.wait(lambda d: "would not be taken" in d.find_element("css selector", "header").text)
    page.wait(lambda d: "frame 1 of 20" in d.find_element("css selector", "main").text, 120)


def test_the_loom_shows_true_pictures_of_the_film(page: Page, client: httpx.Client) -> None:
    page.open(f"/shots/{new_shot(client, name='On the strip')}")
    page.wait(lambda d: len(d.find_elements("css selector", "[data-strip] image")) == 24)
