"""What the browser tests do over and over: go, find by what a person reads, wait."""

from __future__ import annotations

import json
from typing import Any

from selenium.common.exceptions import TimeoutException
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webdriver import WebDriver
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.ui import WebDriverWait

from ample_crate.store.places import CHECKOUT

# Seconds; a busy machine may be ten times slower than a quiet one, and waiting costs nothing where
# it is not.
PATIENCE = 240
AXE = (CHECKOUT / "frontend/node_modules/axe-core/axe.min.js").read_text()


class Page:
    def __init__(self, driver: WebDriver, address: str) -> None:
        self.driver, self.address = driver, address

    def go(self, path: str) -> None:
        self.driver.get(self.address + path)

    def wait(self, what: Any, seconds: float = PATIENCE) -> Any:
        try:
            return WebDriverWait(
                self.driver, seconds, poll_frequency=0.2, ignored_exceptions=[Exception]
            ).until(lambda d: what())
        except TimeoutException:
            raise AssertionError(
                f"It did not come to it at {self.driver.current_url}:\n{self.text()}"
            ) from None

    def text(self) -> str:
        return str(self.driver.find_element(By.TAG_NAME, "main").text)

    def sees(self, words: str) -> None:
        self.wait(lambda: words in self.text())

    def find(self, css: str) -> WebElement:
        return self.wait(lambda: self.driver.find_element(By.CSS_SELECTOR, css))  # type: ignore[no-any-return]

    def all(self, css: str) -> list[WebElement]:
        return self.driver.find_elements(By.CSS_SELECTOR, css)

    def named(self, words: str, tag: str = "*") -> WebElement:
        path = (
            f"//main//{tag}[self::button or self::a or self::summary][normalize-space()='{words}']"
        )
        return self.wait(
            lambda: next(
                e
                for e in self.driver.find_elements(By.XPATH, path)
                if e.is_displayed() and e.is_enabled()
            )
        )  # type: ignore[no-any-return]

    def click(self, words: str) -> None:
        def press() -> bool:
            self.driver.execute_script(
                "arguments[0].scrollIntoView({block: 'center'})", self.named(words)
            )
            self.named(words).click()
            return True

        self.wait(press)  # what is drawn anew between finding and pressing is found again

    def field(self, label: str) -> WebElement:
        return self.wait(
            lambda: next(
                e
                for e in self.driver.find_elements(
                    By.XPATH, f"//label[contains(., '{label}')]//*[self::input or self::select]"
                )
                if e.is_displayed()
            )
        )  # type: ignore[no-any-return]

    def press(self, key: str) -> None:
        self.driver.find_element(By.TAG_NAME, "body").send_keys(key)

    def accessible(self) -> None:
        """Check the page against WCAG 2.2 A and AA with axe-core, once its colours have come to
        rest.
        """
        self.wait(
            lambda: self.driver.execute_script(
                "return document.getAnimations().every(a => !(a instanceof CSSTransition))"
            )
        )
        self.driver.execute_script(AXE)
        found = self.driver.execute_async_script(
            "const done = arguments[0]; axe.run(document, {runOnly: "
            "['wcag2a','wcag2aa','wcag21a','wcag21aa','wcag22aa']})"
            ".then(r => done(r.violations.map(v => [v.id, v.help, v.nodes.map(n => "
            "n.html.slice(0, 160) + ' :: ' + n.failureSummary)])))"
        )
        assert found == [], json.dumps(found, indent=1)

    def errors(self) -> list[str]:
        return [e["message"] for e in self.driver.get_log("browser") if e["level"] == "SEVERE"]


__all__ = ["Keys", "Page"]
