"""A walk on the desk: made from any shot, said in a sentence, drawn from above, taken from GPX."""

from pathlib import Path

import httpx
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from tests.browser.conftest import Page
from tests.desk import new_shot


def document(client: httpx.Client, id: str) -> dict:  # type: ignore[type-arg]
    return client.get(f"/api/shots/{id}").json()["document"]


def test_a_shot_becomes_a_walk_whose_numbers_and_path_are_changed_in_place(
    page: Page, client: httpx.Client, tmp_path: Path
) -> None:
    id = new_shot(client, name="Along the shore", start={"by": "clock", "time": "12:00"})
    page.open(f"/shots/{id}")
    page.until("timing.frame_count", "600 frames")
    Select(page.find('[data-field="made"]')).select_by_visible_text("a walk")
    page.until("walk.film_s", "9.375 s")
    page.write("walk.factor", "8", leave=Keys.TAB)
    page.until("walk.film_s", "16.75 s")
    page.write("walk.length_m", "61.2 m")
    page.until("walk.walk_s", "51 s")
    page.driver.find_element(By.TAG_NAME, "body").send_keys("3")
    page.wait(lambda d: len(d.find_elements(By.CSS_SELECTOR, "[data-point]")) == 2)
    page.write("walk.legs.0.bearing", "300°")
    page.wait(lambda _: abs(document(client, id)["walk"]["points"][1]["x_mm"]) > 20_000)
    # A metre to one side by the keyboard.
    before = document(client, id)["walk"]["points"][1]
    page.find('[data-point="1"]').send_keys(Keys.ARROW_UP)
    page.wait(lambda _: document(client, id)["walk"]["points"][1] != before)
    after = document(client, id)["walk"]["points"][1]
    moved = abs(after["x_mm"] - before["x_mm"]) + abs(after["y_mm"] - before["y_mm"])
    assert abs(moved - 1_000) < 2
    track = "".join(f'<trkpt lat="{57.6 + i * 0.0005}" lon="-7.4"/>' for i in range(3))
    file = tmp_path / "shore.gpx"
    file.write_text(f'<gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>{track}'
                    "</trkseg></trk></gpx>")  # fmt: skip
    page.driver.find_element(By.CSS_SELECTOR, "[data-testid=path-file]").send_keys(str(file))
    page.until("walk.length_m", "111.4 m")
    file.write_text("<gpx")
    page.driver.find_element(By.CSS_SELECTOR, "[data-testid=path-file]").send_keys(str(file))
    page.wait(lambda d: "GPX that can be read" in d.find_element(By.CSS_SELECTOR, "[data-testid=walk-panel]").text)
    page.wait(lambda d: len(d.find_elements(By.CSS_SELECTOR, "[data-testid=stations] tbody tr")) > 5)
