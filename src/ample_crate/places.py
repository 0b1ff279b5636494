"""Where things are on disk: the checkout, the specs that ship, the data directory."""

from __future__ import annotations

import hashlib
import os
from pathlib import Path

CHECKOUT = Path(__file__).resolve().parents[2]
SPECS = CHECKOUT / "specs"
FRONT_END = CHECKOUT / "frontend" / "dist"


def data_directory() -> Path:
    """Give the data directory: $AMPLE_DATA, else one for this checkout under the user's own place.

    As root it lies under /var/lib, which the database's own user can reach.
    """
    said = os.environ.get("AMPLE_DATA")
    if said:
        return Path(said).resolve()
    mark = hashlib.sha256(str(CHECKOUT).encode()).hexdigest()[:8]
    base = Path("/var/lib") if os.geteuid() == 0 else Path.home() / ".local" / "share"
    return base / f"ample-crate-{mark}"
