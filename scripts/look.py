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


def picture(target: Path, address: str, theme: str = "day", width: int = 1280, height: int = 800) -> None:
    """Take one picture of a page in a theme."""
    driver = browser(width, height)
    try:
        driver.get(HOME + "/favicon.svg")
        driver.execute_script(f"localStorage.setItem('revani-theme', '{theme}')")
        driver.get(HOME + address)
        time.sleep(2.5)
        driver.save_screenshot(str(target))
    finally:
        driver.quit()


def addresses() -> dict[str, str]:
    """The main views, from the demo data."""
    shots = {one["document"]["name"]: one["id"] for one in httpx.get(f"{HOME}/api/shots").json()}
    runs = httpx.get(f"{HOME}/api/runs").json()
    return {
        "tonight": "/",
        "desk": f"/shots/{shots['Chimney and tide']}",
        "run": f"/runs/{runs[-1]['id']}",
        "review": f"/runs/{runs[-1]['id']}/review",
    }


if __name__ == "__main__":
    if len(sys.argv) > 2:
        target, address, *rest = sys.argv[1:]
        theme = rest[0] if rest else "day"
        picture(Path(target), addresses().get(address, address), theme, *(int(size) for size in rest[1:3]))
    else:
        for name, address in addresses().items():
            picture(CHECKOUT / "docs" / "screenshots" / f"{name}.png", address)
