"""A film made of shots, on its page: cut by keyboard, mended, undone, saved in order."""

import httpx
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from tests.browser.conftest import Page
from tests.desk import new_shot


def names(page: Page) -> list[str]:
    return [one.text for one in page.driver.find_elements(By.CSS_SELECTOR, "[data-cut] a")]


def length(page: Page) -> str:
    return page.find("[data-testid=length]").text


def kept(client: httpx.Client, page: Page) -> dict:  # type: ignore[type-arg]
    id = page.driver.current_url.rsplit("/", 1)[1]
    return client.get(f"/api/sequences/{id}").json()


def begun(page: Page, name: str) -> None:
    page.open("/sequences")
    page.click('[aria-label="Name of a new sequence"]')
    page.keys(name + "\n")
    page.find('[aria-label="Put in a shot"]')


def test_a_film_is_made_of_shots_by_keyboard_and_comes_back_as_it_was_left(page: Page, client: httpx.Client) -> None:
    for name in ("Otter by day", "Otter by night"):
        new_shot(client, name=name)
    begun(page, "Otters")
    for found in ("otter day", "otter night"):
        page.click('[aria-label="Put in a shot"]')
        page.keys(found + "\n")
    page.wait(lambda _: names(page) == ["Otter by day", "Otter by night"])
    page.click('[aria-label="Otter by night from"]')
    page.over("4 s" + Keys.TAB)
    page.over("9" + Keys.TAB)
    page.wait(lambda _: length(page) == "25 s")
    # Alt and an arrow carry the cut in which one is to another place.
    page.find('[aria-label="Otter by night to"]').send_keys(Keys.ALT, Keys.ARROW_UP)
    page.wait(lambda _: names(page) == ["Otter by night", "Otter by day"])
    page.driver.find_element(By.TAG_NAME, "body").click()
    page.driver.find_element(By.TAG_NAME, "body").send_keys(Keys.CONTROL, "z")
    page.wait(lambda _: names(page) == ["Otter by day", "Otter by night"])
    page.wait(lambda _: [cut["out_s"] for cut in kept(client, page)["document"]["cuts"]] == [None, 9])
    page.driver.refresh()
    page.wait(lambda _: names(page) == ["Otter by day", "Otter by night"] and length(page) == "25 s")
    page.wait(lambda d: len(d.find_elements(By.CSS_SELECTOR, "[data-testid=skeins] g[role=button]")) == 2)
    page.wait(lambda d: len(d.find_elements(By.CSS_SELECTOR, "[data-doing='Set up']")) == 2)


def test_what_cannot_be_cut_is_said_at_its_field_and_a_change_mends_what_it_is_offered_for(
    page: Page, client: httpx.Client
) -> None:
    new_shot(client, name="Heron waits")
    begun(page, "Heron")
    page.click('[aria-label="Put in a shot"]')
    page.keys("heron waits\n")
    page.click('[aria-label="Heron waits to"]')
    page.over("soon\n")
    page.wait(lambda d: "such as" in d.find_element(By.CSS_SELECTOR, "[data-cut='0'] [role=alert]").text)
    page.click('[aria-label="Heron waits to"]')
    page.over("50 s\n")
    page.click("[data-remark='across.beyond'] [data-change='to-its-end']")
    page.wait(lambda d: not d.find_elements(By.CSS_SELECTOR, "[data-remark='across.beyond']"))
    page.click("[data-remark='across.too-long'] summary")
    page.wait(lambda d: "looks away" in d.find_element(By.CSS_SELECTOR, "[data-remark='across.too-long']").text)
    Select(page.find('[aria-label="The film is for"]')).select_by_visible_text("a feed")
    page.wait(lambda d: not d.find_elements(By.CSS_SELECTOR, "[data-remark='across.too-long']"))
    page.wait(lambda _: kept(client, page)["document"]["use"] == "a feed")


def test_a_sequence_that_was_saved_elsewhere_offers_both(page: Page, client: httpx.Client) -> None:
    new_shot(client, name="Swift")
    begun(page, "Swifts")
    page.click('[aria-label="Put in a shot"]')
    page.keys("swift\n")
    page.wait(lambda _: kept(client, page)["version"] == 2)
    theirs = kept(client, page)["document"] | {"name": "Swallows"}
    client.put(f"/api/sequences/{theirs['id']}", json=theirs, headers={"If-Match": "2"}).raise_for_status()
    page.click('[aria-label="Swift to"]')
    page.over("9\n")
    page.click("[role=alert] button:first-of-type")
    page.wait(lambda _: kept(client, page)["version"] == 4)
    assert kept(client, page)["document"]["cuts"][0]["out_s"] == 9
