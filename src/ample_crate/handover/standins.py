"""Stand-in for a recipient's own intake: it verifies what arrived by itself and answers with a receipt.

It knows nothing of the sender's database: only the bytes in its folder.
"""

from __future__ import annotations

import json
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import bagit

from . import report
from .bag import problem


def receive(bag: Path, recipient: str) -> dict[str, Any]:
    """Verify an arrived bag and answer: {recipient, bag, received_at, accepted, message, files}.

    The receipt is also laid beside the bag as `NAME.receipt.json`.
    """
    wrong = problem(bag)
    files: list[dict[str, Any]] = []
    if wrong is None:
        listed = bagit.Bag(str(bag)).payload_entries()
        files = [
            {"name": name.removeprefix("data/"), "bytes": (bag / name).stat().st_size, "sha256": sums["sha256"]}
            for name, sums in sorted(listed.items())
        ]
    answer = {
        "recipient": recipient,
        "bag": bag.name,
        "received_at": datetime.now(UTC).isoformat(timespec="seconds"),
        "accepted": wrong is None,
        "message": "All files arrived whole; every checksum agrees." if wrong is None else f"The bag does not verify: {wrong}",
        "files": files,
    }
    report.write_whole(bag.with_name(f"{bag.name}.receipt.json"), json.dumps(answer, indent=2))
    return answer
