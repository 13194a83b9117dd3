"""What is made of a shot afterwards, on its page: added, framed in the finder, keyed on the loom, typed over."""

from pathlib import Path

import httpx
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from tests.browser.conftest import Page
from tests.desk import new_shot


def outputs(client: httpx.Client, id: str) -> list[dict]:  # type: ignore[type-arg]
    return client.get(f"/api/shots/{id}").json()["document"]["outputs"]


def test_an_output_is_added_framed_and_keyed_in_place(page: Page, client: httpx.Client, tmp_path: Path) -> None:
    id = new_shot(client, name="Afterwards")
    page.open(f"/shots/{id}")
    page.until("timing.frame_count", "600 frames")
    page.driver.find_element(By.TAG_NAME, "body").send_keys("5")
    page.find("[data-testid=add-output]").click()
    page.wait(lambda _: len(outputs(client, id)) == 1)
    # The arrows move its frame in the finder, + goes closer: a key at the frame that is seen.
    finder = page.find("[data-testid=finder]")
    finder.send_keys("+")
    page.wait(lambda _: [key["zoom"] for key in outputs(client, id)[0]["keys"]] == [1.05])
    page.until("outputs.0.keys.0.zoom", "1.05 ×")
    page.write("outputs.0.keys.0.zoom", "1.6", leave=Keys.TAB)
    page.wait(lambda _: outputs(client, id)[0]["keys"][0]["zoom"] == 1.6)
    # Over the edge of the picture there is nothing but black, and that is said.
    page.write("outputs.0.keys.0.across", "0.1")
    page.wait(lambda d: "black shows at its edge" in d.find_element(By.TAG_NAME, "body").text)
    page.write("outputs.0.keys.0.across", "0.5")
    page.wait(lambda d: "black shows at its edge" not in d.find_element(By.TAG_NAME, "body").text)
    # A size that the picture does not have is refused beside the field.
    page.find("[data-beginning='a slow push']").click()
    page.wait(lambda _: [key["zoom"] for key in outputs(client, id)[0]["keys"]] == [1.0, 1.15])
    post = page.find("[data-crop-post='0-1']")
    ActionChains(page.driver).click_and_hold(post).move_by_offset(0, -12).move_by_offset(0, -6).release().perform()
    page.wait(lambda _: outputs(client, id)[0]["keys"][1]["zoom"] > 1.16)
    page.find("[data-testid=cut]")
    page.find("[data-testid=undo]").click()
    page.wait(lambda _: outputs(client, id)[0]["keys"][1]["zoom"] == 1.15)
    file = tmp_path / "keys.json"
    file.write_text('{"format": "revani.outputs/1", "outputs": [{"name": "Square", "pixels_wide": 1080}]}')
    page.driver.find_element(By.CSS_SELECTOR, "[data-testid=outputs-file]").send_keys(str(file))
    page.wait(lambda _: [one["name"] for one in outputs(client, id)] == ["Square"])
    file.write_text('{"format": "revani.outputs/1", "outputs": [{"keys": [{"at_s": 99}]}]}')
    page.driver.find_element(By.CSS_SELECTOR, "[data-testid=outputs-file]").send_keys(str(file))
    page.wait(lambda d: "outputs.0.keys.0.at_s" in d.find_element(By.CSS_SELECTOR, "[data-testid=after-panel]").text)


def test_size_and_kind_are_chosen_from_lists(page: Page, client: httpx.Client) -> None:
    id = new_shot(client, name="Two shapes", outputs=[{"name": "Film"}, {"name": "Upright"}])
    page.open(f"/shots/{id}")
    page.until("timing.frame_count", "600 frames")
    page.driver.find_element(By.TAG_NAME, "body").send_keys("5")
    page.wait(lambda d: len(d.find_elements(By.CSS_SELECTOR, "[data-outline]")) == 2)
    page.wait(lambda d: d.find_elements(By.XPATH, "//button[@role='tab'][.='Upright']"))
    page.driver.find_element(By.XPATH, "//button[@role='tab'][.='Upright']").click()
    Select(page.find('[data-field="outputs.1.size"]')).select_by_visible_text("1080 × 1920")
    page.wait(lambda _: outputs(client, id)[1]["pixels_high"] == 1920)
    Select(page.find('[data-field="outputs.1.becomes"]')).select_by_visible_text("a comet film")
    page.until("outputs.1.frames", "1 frame")
    page.write("outputs.1.frames", "24")
    page.wait(lambda _: (outputs(client, id)[1]["becomes"], outputs(client, id)[1]["frames"]) == ("a comet film", 24))
    page.driver.find_element(By.XPATH, "//button[.='Remove this output']").click()
    page.wait(lambda _: [one["name"] for one in outputs(client, id)] == ["Film"])
