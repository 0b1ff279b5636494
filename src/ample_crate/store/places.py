"""Where things are on disk: the checkout, the specs that ship, the data directory."""

from __future__ import annotations

import hashlib
import os
from pathlib import Path

from ..core.errors import Refused

CHECKOUT = Path(__file__).resolve().parents[3]
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


def house_specs() -> Path:
    """Give the folder of the house's own spec files: $AMPLE_SPECS, else `specs` under the data
    directory.
    """
    return Path(os.environ.get("AMPLE_SPECS") or data_directory() / "specs")


class Folders:
    """The folders of one installation. The media root may be shared between machines.

    Attributes:
        masters: files handed in through the browser, one folder a master.
        intake: folders on the server whose files are read in place.
        runs: one folder a run.
        bags: sealed crates.
        inboxes: the recipients' stand-ins.
        pictures: made-once pictures for the screen.
        proxies: small copies of masters that the page plays, made once.
        keys: the house's key, with which bags are signed.
    """

    def __init__(self, media: Path, intake: list[Path] | None = None) -> None:
        self.media = media.resolve()
        self.uploads = self.media / "uploads"
        self.masters = self.media / "masters"
        self.runs = self.media / "runs"
        self.bags = self.media / "bags"
        self.inboxes = self.media / "inboxes"
        self.pictures = self.media / "pictures"
        self.proxies = self.media / "proxies"
        self.keys = self.media / "keys"
        self.intake = [p.resolve() for p in intake] if intake else [self.media / "intake"]

    @classmethod
    def from_environment(cls) -> Folders:
        """Take $AMPLE_MEDIA and $AMPLE_INTAKE (folders parted by ':'), else folders under the data
        directory.
        """
        media = Path(os.environ.get("AMPLE_MEDIA") or data_directory() / "media")
        said = [Path(p) for p in os.environ.get("AMPLE_INTAKE", "").split(os.pathsep) if p]
        return cls(media, said or None)

    def make(self) -> Folders:
        """Make the folders that are missing; the application's own are closed to other users."""
        for folder in self.intake:
            folder.mkdir(parents=True, exist_ok=True)
        former = self.media / "plays"  # what proxies lay in before
        if former.is_dir() and not self.proxies.exists():
            former.rename(self.proxies)
        for folder in self.own:
            folder.mkdir(parents=True, exist_ok=True)
            if folder.stat().st_uid == os.geteuid():
                folder.chmod(0o700 if folder == self.keys else 0o750)
        return self

    @property
    def own(self) -> tuple[Path, ...]:
        """List the folders that only the application writes."""
        return (
            self.uploads,
            self.masters,
            self.runs,
            self.bags,
            self.inboxes,
            self.pictures,
            self.proxies,
            self.keys,
        )

    def proxy(self, identity: str, id: int) -> Path:
        """Give the place of a master's proxy, by what its bytes are known by."""
        mark = hashlib.sha256(identity.encode()).hexdigest()[:16]
        return self.proxies / f"{id}-{mark}.mp4"

    def inside(self, path: Path) -> Path:
        """Give the real path of a file, which must lie in a media root whatever links say.

        Raises:
            Refused: it lies elsewhere.
        """
        try:
            real = path.resolve()
        except (OSError, ValueError):  # longer than any name, or with a character that no name has
            raise Refused("No file has such a name.", "Choose one from the list.") from None
        if not any(real.is_relative_to(root) for root in (self.media, *self.intake)):
            raise Refused(
                f"'{path.name}' lies outside the media folders.", "Put it into an intake folder."
            )
        return real
