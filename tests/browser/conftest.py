"""The real interface in headless Chromium."""

import tempfile
from collections.abc import Callable, Iterator

import pytest
from selenium import webdriver
from selenium.common.exceptions import TimeoutException
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.actions import interaction
from selenium.webdriver.common.actions.action_builder import ActionBuilder
from selenium.webdriver.common.actions.pointer_input import PointerInput
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import WebDriverWait

from tests.conftest import Stack

FLAGS = (
    "--headless=new", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-sync",
    "--disable-background-networking", "--disable-component-update", "--autoplay-policy=no-user-gesture-required",
)  # fmt: skip


class Page:
    """A browser on the application, with the few ways in which tests look and act."""

    def __init__(self, driver: webdriver.Chrome, home: str) -> None:
        self.driver = driver
        self.home = home

    def open(self, address: str) -> None:
        self.driver.get(self.home + address)

    def wait(self, look, seconds: float = 30):  # type: ignore[no-untyped-def]
        """The first truthy value of `look(driver)`, whatever re-renders in between."""
        return WebDriverWait(self.driver, seconds, poll_frequency=0.1, ignored_exceptions=[Exception]).until(look)

    def find(self, css: str) -> WebElement:
        return self.wait(lambda driver: driver.find_element(By.CSS_SELECTOR, css))

    def click(self, css: str) -> None:
        def look(driver: webdriver.Chrome) -> bool:
            element = driver.find_element(By.CSS_SELECTOR, css)
            # The read-out at the foot of the desk stays over what is scrolled to the edge.
            driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", element)
            element.click()
            return True

        self.wait(look)

    def tap(self, css: str) -> None:
        """Touch something, as a finger does."""
        element = self.find(css)
        self.script("arguments[0].scrollIntoView({block: 'center'})", element)
        finger = PointerInput(interaction.POINTER_TOUCH, "finger")
        actions = ActionBuilder(self.driver, mouse=finger)
        actions.pointer_action.move_to(element).pointer_down().pause(0.06).pointer_up()
        actions.perform()

    def value(self, field: str) -> str:
        """What a number of the sentence shows."""
        return self.find(f'[data-field="{field}"]').get_attribute("value") or ""

    def type(self, field: str, text: str) -> None:
        """Type over a number of the sentence at a person's pace, without leaving it; a line's end is Enter."""
        self.click(f'[data-field="{field}"]')
        self.over(text)

    def keys(self, text: str) -> None:
        """Type into what has the focus at a person's pace, 120 ms a key."""
        chain = ActionChains(self.driver)
        for key in text:
            chain.send_keys(Keys.ENTER if key == "\n" else key).pause(0.12)
        chain.perform()

    def over(self, text: str) -> None:
        """Type over what the focused field holds."""
        self.driver.switch_to.active_element.send_keys("\ue009a\ue000")
        self.keys(text)

    def write(self, field: str, text: str, leave: str = "\ue007") -> None:
        """Type over a value at a person's pace, then leave it: by Enter, Tab, or a tap on what a selector names."""
        self.click(f'[data-field="{field}"]')
        self.over(text)
        if len(leave) == 1:
            self.keys(leave)
        else:
            self.click(leave)

    def until(self, field: str, text: str) -> None:
        try:
            self.wait(lambda _: self.value(field) == text)
        except TimeoutException as error:
            raise AssertionError(f"{field} is {self.value(field)!r}, not {text!r}") from error

    def script(self, code: str, *values: object):  # type: ignore[no-untyped-def]
        return self.driver.execute_script(code, *values)


def press(page: Page, label: str) -> None:
    page.wait(lambda d: d.find_element(By.CSS_SELECTOR, f'[aria-label="{label}"]').click() is None)


def text_of(css: str) -> Callable[[webdriver.Chrome], str]:
    """Looks up what stands in an element."""
    return lambda driver: driver.find_element(By.CSS_SELECTOR, css).text


@pytest.fixture(scope="session")
def page(stack: Stack) -> Iterator[Page]:
    options = Options()
    with tempfile.TemporaryDirectory(prefix="revani-chromium-") as profile:
        for flag in (*FLAGS, f"--user-data-dir={profile}", "--window-size=1280,900"):
            options.add_argument(flag)
        options.set_capability("goog:loggingPrefs", {"performance": "ALL", "browser": "ALL"})
        driver = webdriver.Chrome(options, Service("/usr/bin/chromedriver"))
        # A whole page is looked through by one script, which takes its time on a machine that others share.
        driver.set_script_timeout(180)
        try:
            yield Page(driver, stack.home)
        finally:
            driver.quit()


@pytest.fixture
def phone(page: Page) -> Iterator[Page]:
    """The same browser, as large as a phone, and touched."""
    page.driver.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride", {"width": 390, "height": 844, "deviceScaleFactor": 1, "mobile": True}
    )
    page.driver.execute_cdp_cmd("Emulation.setTouchEmulationEnabled", {"enabled": True})
    try:
        yield page
    finally:
        page.driver.execute_cdp_cmd("Emulation.clearDeviceMetricsOverride", {})
        page.driver.execute_cdp_cmd("Emulation.setTouchEmulationEnabled", {"enabled": False})
