"""The planning bench as tests drive it."""

from __future__ import annotations

from typing import Any

from client import Client
from page import Page

SHOWN = (
    "const at = document.querySelector(\"img[alt='the frame as it will be shown']\");"
    "return at && at.naturalWidth > 0 ? at.dataset.src : ''"
)


CHANGED = f"(() => {{{SHOWN}}})() !== arguments[0] && (() => {{{SHOWN}}})()"


def chosen(client: Client, crate: Any, number: int = 0) -> Any:
    return client.good("GET", f"/api/crates/{crate['id']}")["deliverables"][number]["chosen"]


def to_bench(page: Page, crate: Any) -> None:
    page.go(f"/crates/{crate['id']}")
    page.click("Planning bench")
    page.sees("What comes of it")
    page.wait(lambda: page.driver.execute_script(SHOWN))
