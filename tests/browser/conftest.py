"""Chromium, headless, from Debian's packages."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from page import Page
from selenium import webdriver
from selenium.webdriver.chrome.service import Service

from support import Installation


@pytest.fixture(scope="session")
def page(installation: Installation, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Page]:
    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    profile = tmp_path_factory.mktemp("chromium")
    flags = [
        "--headless=new",
        "--disable-gpu",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
        "--window-size=1280,800",
        f"--user-data-dir={profile}",
        "--disable-dev-shm-usage",
        # As root, and in many containers, its sandbox cannot be made; it opens nothing but the
        # application's own pages.
        "--no-sandbox",
    ]
    for flag in flags:
        options.add_argument(flag)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
    driver.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride",
        {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False},
    )
    try:
        yield Page(driver, installation.address)
    finally:
        driver.quit()
        assert Path(profile).exists()


@pytest.fixture(autouse=True)
def _nothing_complained_of_before(page: Page) -> None:
    """Leave what the test before made the browser complain of with that one."""
    page.errors()
