"""The whole path of a night, as a person walks it."""

import io

import av
import httpx
from selenium import webdriver
from selenium.webdriver.common.by import By

from revani.core.documents import ClockStart, Light
from revani.core.documents.timing import Timing
from tests.browser.conftest import Page
from tests.conftest import make_kit
from tests.desk import new_shot


def arm_from_dialog(page: Page) -> None:
    """Arm what the dialog shows; behind another test's run where one has the rig."""

    def armed(driver: webdriver.Chrome) -> bool:
        for box in driver.find_elements(By.CSS_SELECTOR, "[data-tick=queue], [data-tick=anyway]"):
            if not box.is_selected():
                box.click()
        driver.find_element(By.CSS_SELECTOR, "[data-testid=arm]:enabled").click()
        return True

    page.wait(armed)


def test_from_the_sentence_over_a_finding_and_a_run_to_a_film_that_plays(page: Page, client: httpx.Client) -> None:
    kit = make_kit(body={"overhead_s": "0.5", "controller_tick_s": 3})
    id = new_shot(
        client, name="Whole path", kit=kit, light=Light(school="fixed", aperture=2.8, shutter_s=6, iso=400),
        timing=Timing(fps=30, interval_s=30, playback_s=4), start=ClockStart(time="21:00"),
    )  # fmt: skip
    page.open(f"/shots/{id}")
    page.until("timing.frame_count", "120 frames")
    assert page.find("[data-testid=findings]").text.endswith("stands against this shot.")

    # While a number is typed the others follow, before it is left.
    page.type("timing.playback_s", "2")
    page.until("timing.frame_count", "60 frames")
    assert page.find("[data-testid=threads]").get_attribute("d").count("M") < 72
    page.type("timing.playback_s", "4")
    page.until("timing.frame_count", "120 frames")
    assert page.find("[data-testid=threads]").get_attribute("d").count("M") > 72
    page.type("timing.interval_s", "5")
    page.until("timing.event_s", "10 min")
    finding = page.find('[data-finding="timing.interval-too-short"]')
    assert "need 9 s" in finding.text
    page.type("timing.interval_s", "6")
    page.until("timing.event_s", "12 min")
    page.script("document.activeElement.blur()")

    # The fix states its price; taking it is an edit that undo takes back.
    fix = page.find('[data-fix^="A frame every 9 s, stay longer"]')
    assert "you stay 18 min" in fix.text
    fix.click()
    page.until("timing.interval_s", "9 s")
    page.wait(lambda driver: not driver.find_elements(By.CSS_SELECTOR, "[data-finding]"))
    page.click("[data-testid=undo]")
    page.until("timing.interval_s", "6 s")
    page.click('[data-fix^="A frame every 9 s, stay longer"]')
    page.until("timing.interval_s", "9 s")
    page.wait(lambda _: client.get(f"/api/shots/{id}").json()["document"]["timing"]["interval_s"] == 9)
    page.wait(lambda driver: driver.find_element(By.CSS_SELECTOR, "[data-testid=saving]").text == "saved")

    page.type("timing.playback_s", "2\n")
    page.until("timing.frame_count", "60 frames")
    page.wait(lambda _: client.get(f"/api/shots/{id}").json()["document"]["timing"]["playback_s"] == 2)

    # Left to the camera, 60 times as fast as the clock, and watched.
    page.click("[data-testid=open-arm]")
    speed = page.find("[data-testid=speed]")
    assert speed.get_attribute("value") == "1"
    page.find("[data-testid=speed] option[value='60']").click()
    arm_from_dialog(page)
    page.wait(lambda driver: driver.find_element(By.CSS_SELECTOR, "[data-testid=run-state]").text == "Running")
    page.wait(lambda driver: int(driver.find_element(By.CSS_SELECTOR, "[data-testid=taken]").text) >= 5)
    page.wait(
        lambda driver: driver.find_element(By.CSS_SELECTOR, "img.picture").get_property("naturalWidth") == 480, 60
    )
    page.wait(lambda driver: driver.find_element(By.CSS_SELECTOR, "[data-testid=run-state]").text == "Finished", 60)
    taken = int(page.find("[data-testid=taken]").text)
    # A busy machine may cost many frames at this speed.
    assert 5 <= taken <= 60

    # Brought home and assembled at just the playback rate of the sentence.
    page.click("a[href$='/review']")
    page.click("[data-testid=assemble]")
    film = page.find("[data-testid=film]")
    page.wait(lambda _: page.script("return arguments[0].readyState >= 3", film), 60)
    assert abs(page.script("return arguments[0].duration", film) - taken / 30) < 0.05
    page.script("arguments[0].muted = true; arguments[0].play()", film)
    page.wait(lambda _: page.script("return arguments[0].currentTime > 0.1", film))
    content = httpx.get(film.get_attribute("src")).content
    with av.open(io.BytesIO(content)) as container:
        stream = container.streams.video[0]
        assert stream.average_rate == 30 and stream.codec_context.name == "h264"
        assert sum(1 for _ in container.decode(stream)) == taken


def test_a_refused_number_says_what_is_allowed_and_changes_nothing(page: Page, client: httpx.Client) -> None:
    id = new_shot(client)
    page.open(f"/shots/{id}")
    page.until("timing.frame_count", "600 frames")
    page.type("timing.fps", "never\n")
    page.wait(lambda driver: "frames a second" in driver.find_element(By.CSS_SELECTOR, "[role=alert]").text)
    assert page.find('[data-field="timing.fps"]').get_attribute("aria-invalid") == "true"
    page.find('[data-field="timing.fps"]').send_keys("\ue00c")
    page.until("timing.fps", "30 fps")
    page.wait(lambda driver: not driver.find_elements(By.CSS_SELECTOR, "[role=alert]"))
    assert client.get(f"/api/shots/{id}").json()["version"] == 1


def test_the_sentence_is_worked_by_keyboard_alone(page: Page, client: httpx.Client) -> None:
    page.open(f"/shots/{new_shot(client)}")
    page.until("timing.frame_count", "600 frames")
    box = page.find('[data-field="timing.interval_s"]')
    box.click()
    box.send_keys("\ue013")
    page.until("timing.interval_s", "40 s")
    box.send_keys("\ue004")
    page.wait(lambda driver: driver.switch_to.active_element.get_attribute("data-field") == "start")
    page.type("timing.event_s", "10h\n")
    page.until("timing.interval_s", "1 min")
    assert page.find('[data-field="timing.interval_s"]').get_attribute("data-state") == "solved"
    page.type("timing.playback_s", "=")
    page.wait(lambda _: page.find('[data-field="timing.playback_s"]').get_attribute("data-state") == "solved")
    page.find("body").send_keys("\ue009z")
    page.wait(lambda _: page.find('[data-field="timing.playback_s"]').get_attribute("data-state") == "wanted")
