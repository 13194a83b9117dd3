"""Ways of a shot beside each other: kept on the desk, seen under one cursor, taken, undone."""

import httpx
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from revani.core.documents.timing import Timing
from tests.browser.conftest import Page, press, text_of
from tests.desk import new_shot


def test_a_way_is_kept_on_the_desk_seen_beside_and_taken(page: Page, client: httpx.Client) -> None:
    id = new_shot(client, name="Two ways", timing=Timing(fps=30, interval_s=60, frame_count=40))
    page.open(f"/shots/{id}")
    page.find("[data-testid=findings]")
    page.find("body").send_keys("2")
    page.click("[aria-label='Beside: hold the exposure']")
    page.find("[data-testid=kept-beside]")
    page.wait(lambda d: text_of("[data-testid=saving]")(d) == "saved")
    page.find("[data-testid=ways]").click()
    page.wait(lambda d: len(d.find_elements(By.CSS_SELECTOR, "[data-seen] video")) == 2, 120)
    films = page.driver.find_elements(By.CSS_SELECTOR, "[data-seen] video")
    for film in films:
        page.wait(lambda _, film=film: page.script("return arguments[0].readyState", film) >= 2)
    cursor = page.find("[aria-label='Cursor over all ways']")
    for _ in range(5):
        cursor.send_keys(Keys.PAGE_UP)
    place = page.find("[data-testid=place]").text
    assert place != "0 s of film"
    seconds = [
        page.script("return arguments[0].currentTime", film)
        for film in page.driver.find_elements(By.CSS_SELECTOR, "[data-seen] video")
    ]
    assert seconds[0] == seconds[1] > 0
    # By a mark of its own the best of a row is told.
    assert page.find("[data-row='clipped frames'] [data-best] svg")
    # Both in one film, to be kept.
    page.click("[data-testid=together]")
    kept = page.wait(lambda d: d.find_element(By.CSS_SELECTOR, "[data-testid=keep-together]"), 120)
    answer = httpx.get(kept.get_attribute("href") or "")
    assert answer.headers["content-type"] == "video/mp4" and "ways" in answer.headers["content-disposition"]
    press(page, "Take hold the exposure")
    page.wait(lambda d: d.find_elements(By.CSS_SELECTOR, "[data-way='As it was']"))
    assert client.get(f"/api/shots/{id}").json()["document"]["light"]["school"] == "fixed"
    page.find("[data-testid=undo-way]").click()
    page.wait(lambda d: d.find_elements(By.CSS_SELECTOR, "[data-way='hold the exposure']"))
    assert client.get(f"/api/shots/{id}").json()["document"]["light"]["school"] != "fixed"
