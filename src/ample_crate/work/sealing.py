"""What keeps a crate from being sealed, what is signed off, and what a sealed one holds."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path
from typing import Any

from ..core.errors import Refused
from ..core.finding import Finding
from ..core.planning import stored
from ..handover import bag, report, sidecars
from ..media import folders
from ..store.models import Crate
from .deliver import as_item
from .judging import judged
from .status import ItemStatus, item_name, item_statuses, spec_of, whole

NEVER_EXCEPTED = {"file.size"}


def open_breaks(one: ItemStatus) -> list[Finding]:
    """List the "must" findings of a finished file that neither meet nor are signed off."""
    signed = {(x["property"], x["sha256"]) for x in one.deliverable.exceptions}
    checksum = one.finished.sha256 if one.finished else None
    return [
        f
        for f in one.findings
        if f.severity == "must"
        and f.verdict in {"breaks", "unproven"}
        and (f.property in NEVER_EXCEPTED or (f.property, checksum) not in signed)
    ]


def obstacles(crate: Crate, made: list[ItemStatus]) -> list[str]:
    """Say what keeps a crate from being sealed."""
    said = [] if made else ["The crate is empty."]
    for one in made:
        name = item_name(one.deliverable)
        if one.finished is None:
            said.append(f"{name}: not run yet.")
        elif one.lost:
            said.append(f"{name}: its file is no longer where its run left it; run it again.")
        elif one.stale:
            said.append(f"{name}: its plan or its master has changed since the run; run it again.")
        elif one.going_on:
            said.append(f"{name}: a run is going on.")
        else:
            said += [f"{name}: {f.why}" for f in open_breaks(one)]
    return said + [f"The crate: {f.why}" for f in whole(crate, made) if f.verdict == "breaks"]


def require_sealable(crate: Crate) -> None:
    """Make sure that a crate may be sealed.

    Raises:
        Refused: with everything that stands in the way.
    """
    found = obstacles(crate, item_statuses(crate))
    if found:
        raise Refused(
            "The crate cannot be sealed yet. " + " ".join(found),
            "Run what is missing, or sign off an exception where that is allowed.",
        )


def sign_off(one: ItemStatus, property: str, reason: str, by: str, now: datetime) -> dict[str, Any]:
    """Make a signed-off exception for a broken requirement of one finished file.

    Raises:
        Refused: the cap, which is never excepted; nothing to except; or no name or reason.
    """
    if property in NEVER_EXCEPTED:
        raise Refused("A file over its cap can never be sealed.", "Lower the rate and run again.")
    if property not in {f.property for f in open_breaks(one)} or one.finished is None:
        raise Refused(f"Nothing about {property} needs an exception.", "Look at the ledger again.")
    if not reason.strip() or not by.strip():
        raise Refused("An exception needs a reason and a name.", "Write who agreed to it, and why.")
    return {
        "property": property,
        "reason": reason.strip(),
        "by": by.strip(),
        "at": now.isoformat(timespec="seconds"),
        "sha256": one.finished.sha256,
    }


def bag_contents(
    crate: Crate, sealed_at: datetime, house: str
) -> tuple[list[bag.Item], dict[str, Any]]:
    """Gather the files, ledger entries and manifest of a crate that may be sealed."""
    spec, made = spec_of(crate), item_statuses(crate)
    items = []
    for one in made:
        run = one.finished
        assert (
            run is not None
            and run.path is not None
            and run.sha256 is not None
            and one.measured is not None
        )
        entry = report.entry(judged(one, made, run, one.measured))
        items.append(as_item(Path(run.path), entry, run.sha256))
    manifest = {
        "number": crate.number,
        "revision": crate.revision,
        "title": crate.title,
        "recipient": crate.recipient.name,
        "spec": f"{spec.id}, version {spec.version}",
        "due": crate.due_at.isoformat(timespec="minutes"),
        "sealed_at": sealed_at.isoformat(timespec="seconds"),
        "house": house,
        "whole": [f.as_json() for f in whole(crate, made)],
    }
    return items, manifest


def beside(crate: Crate, items: list[bag.Item]) -> list[sidecars.Sidecar]:
    """Make the small files that the spec wants beside the deliverables; captions were made with
    them.

    Raises:
        Refused: captions are no longer where a run left them.
    """
    captions = [one for item in item_statuses(crate) for one in _captions(item)]
    return sidecars.make(spec_of(crate).delivery.sidecars, items, crate.title, captions) + captions


def _captions(one: ItemStatus) -> list[sidecars.Sidecar]:
    run = one.finished
    plan = stored.route_of(run.route).plan if run is not None else None
    if run is None or run.path is None or plan is None:
        return []
    folder = folders.beside(Path(run.path))
    try:
        return [
            sidecars.Sidecar(file.name, (folder / file.name).read_text("utf-8"))
            for file in plan.captions
        ]
    except OSError as error:
        raise Refused(
            f"The captions beside {item_name(one.deliverable)} are no longer where its run left "
            f"them: {error.strerror}.",
            "Run it again, then seal.",
        ) from error
