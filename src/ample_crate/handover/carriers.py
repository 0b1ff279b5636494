"""Carriers take a sealed bag to a recipient and bring back the receipt."""

from __future__ import annotations

import os
import shutil
from pathlib import Path
from typing import Any

from . import standins


def carry_to_folder(bag: Path, inbox: Path, recipient: str) -> dict[str, Any]:
    """Copy a bag into a recipient's folder and return what their side answers.

    The bag appears in the folder under its name when it is whole.
    """
    inbox.mkdir(parents=True, exist_ok=True)
    arriving = inbox / f".arriving-{bag.name}"
    shutil.rmtree(arriving, ignore_errors=True)
    final = inbox / bag.name
    try:
        shutil.copytree(bag, arriving)
        if final.exists():
            shutil.rmtree(final)
        os.replace(arriving, final)
    finally:
        shutil.rmtree(arriving, ignore_errors=True)
    return standins.receive(final, recipient)
