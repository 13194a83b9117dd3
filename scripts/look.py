"""Take pictures of the running application: `look.py NAME ADDRESS [theme] [width] [height]`.

With no arguments, refreshes docs/screenshots from the demo data.
"""

import sys
import tempfile
import time
from pathlib import Path

import httpx
from selenium import webdriver
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import WebDriverWait

from revani.settings import CHECKOUT, settings

HOME = f"http://127.0.0.1:{settings().port}"


def browser(width: int, height: int) -> webdriver.Chrome:
    """Headless Chromium with a window of this size; a narrow one is a phone."""
    options = Options()
    for flag in (
        "--headless=new", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
        "--disable-background-networking", "--disable-component-update", "--disable-sync", "--hide-scrollbars",
        f"--user-data-dir={tempfile.mkdtemp()}",
    ):  # fmt: skip
        options.add_argument(flag)
    driver = webdriver.Chrome(options, Service("/usr/bin/chromedriver"))
    metrics = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": width < 600}
    driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)
    return driver


def picture(
    target: Path, address: str, theme: str = "day", width: int = 1280, height: int = 800, *scripts: str
) -> None:
    """Take one picture of a page in a theme, after scripts have been run in it; `until CSS` waits for an element."""
    driver = browser(width, height)
    try:
        driver.get(HOME + "/favicon.svg")
        driver.execute_script(f"localStorage.setItem('revani-theme', '{theme}')")
        driver.get(HOME + address)
        WebDriverWait(driver, 60).until(lambda d: d.find_elements(By.TAG_NAME, "h1"))
        time.sleep(2)
        for script in scripts:
            if script.startswith("until "):
                css = script.removeprefix("until ")
                WebDriverWait(driver, 300).until(lambda d, css=css: d.find_elements(By.CSS_SELECTOR, css))
            else:
                driver.execute_script(script)
            time.sleep(1.2)
        driver.save_screenshot(str(target))
    finally:
        driver.quit()


def _key(name: str, times: int = 1, on: str = "document.body") -> str:
    event = f"new KeyboardEvent('keydown', {{key: '{name}', shiftKey: {str(times > 1).lower()}, bubbles: true}})"
    return f"for (let i = 0; i < {times}; i++) {on}.dispatchEvent({event})"


_LOOM = "document.querySelector('[data-testid=loom]')"
_ALONG = _key("ArrowRight", 14, _LOOM)


def _pressed(words: str) -> str:
    return f"[...document.querySelectorAll('button')].find(one => one.textContent === '{words}').click()"


def _below(test_id: str) -> str:
    return f"document.querySelector('[data-testid={test_id}]').scrollIntoView()"


def _under_way(shot: str, frames: int = 60) -> str:
    """A run of a shot, begun on a faster stage, that has so many frames; it is stopped when the pictures are taken."""
    order = {"shot_id": shot, "when": "planned", "speed": 120, "anyway": True, "queue": True}
    run = str(httpx.post(f"{HOME}/api/runs", json=order).raise_for_status().json()["id"])
    while (seen := httpx.get(f"{HOME}/api/runs/{run}").json())["taken"] < frames and seen["state"] in (
        "armed",
        "running",
    ):
        time.sleep(0.5)
    return run


def views() -> dict[str, tuple[str, ...]]:
    """The main views, from the demo data: address, theme, and what is done there first."""
    shots = {one["document"]["name"]: one["id"] for one in httpx.get(f"{HOME}/api/shots").json()}
    runs = {one["name"]: one["id"] for one in httpx.get(f"{HOME}/api/runs").json()}
    desk, rail = f"/shots/{shots['Chimney and tide']}", f"/shots/{shots['Past the stacked wood']}"
    run = runs["Tide over the causeway"]
    film = httpx.get(f"{HOME}/api/sequences").json()[0]["id"]
    movers = "section[aria-label=Movers]"
    return {
        "tonight": ("/", "day"),
        "begin": ("/begin", "day", _pressed("stars, as points"), "1"),
        "resolve": (rail, "day", "document.querySelector('[data-testid=open-resolve]').click()", "1"),
        "shots": ("/shots", "day", "1"),
        "walk": (f"/shots/{shots['Clay pit to shed']}", "day", _key("3"), _below("walk-panel")),
        "afterwards": (desk, "day", _key("5"), _ALONG, _below("after-panel")),
        "sphere": (f"/shots/{shots['Round the kilns']}", "night", _key("5"), _ALONG, _below("after-panel")),
        "sequence": (f"/sequences/{film}", "day"),
        "desk": (desk, "day", _ALONG),
        "feed": (desk, "day", _key("4"), _below("feeding")),
        "rig-up": (f"{desk}/rig-up", "day"),
        "rehearse": (f"{desk}/rehearse", "day", "until [data-testid=rehearsed]"),
        "ways": (
            f"/shots/{shots['Stars over the stack']}/ways",
            "night",
            "until [data-seen]:nth-child(3) video",
            "until [data-seen]:nth-child(1) video",
            "const at = document.querySelector('input[type=range]'), of = HTMLInputElement.prototype; "
            "Object.getOwnPropertyDescriptor(of, 'value').set.call(at, 30); "
            "at.dispatchEvent(new Event('input', {bubbles: true}))",
            "1",
        ),
        "light": (desk, "day", _key("2"), "document.querySelector('[data-testid=desk]').scrollTo(0, 330)"),
        "move": (rail, "day", _key("3"), _ALONG),
        "kit": (
            "/kit",
            "day",
            f"document.querySelector('{movers} button').click()",
            f"document.querySelector('{movers}').scrollIntoView()",
        ),
        "field-red": (rail, "red", _key("3"), _ALONG),
        "run": (f"/runs/{_under_way(shots['Tide over the causeway'])}", "night"),
        "review": (f"/runs/{run}/review", "day"),
    }


if __name__ == "__main__":
    if len(sys.argv) > 2:
        target, address, *rest = sys.argv[1:]
        theme = rest[0] if rest else "day"
        picture(Path(target), address, theme, *(int(size) for size in rest[1:3]))
    else:
        shown = views()
        # First the one that goes on.
        for name, (address, theme, *scripts) in sorted(shown.items(), key=lambda view: view[0] != "run"):
            picture(CHECKOUT / "docs" / "screenshots" / f"{name}.png", address, theme, 1280, 800, *scripts)
            if name == "run":
                httpx.post(f"{HOME}/api{address}/stop").raise_for_status()
