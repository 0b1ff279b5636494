"""Where media operations run: without network, rights or environment, seeing only what they read
and the folder they write.
"""

from __future__ import annotations

import contextlib
import os
import shutil
import stat
import subprocess
import sys
import tempfile
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any, Literal

from ..core.errors import BadMedia
from . import apart, sequence

Way = Literal["bubblewrap", "changed user", "limits alone"]
WAYS: tuple[Way, ...] = ("bubblewrap", "changed user", "limits alone")
NOBODY = 65534  # user and group without rights, by Debian's base-passwd
# All that a child knows of the world; nothing of its parent's environment.
ENVIRONMENT = {
    "PATH": "/usr/bin:/bin",
    "LC_ALL": "C.UTF-8",
    "PYTHONDONTWRITEBYTECODE": "1",
    # A child starts a sixth faster when nobody looks for plugins that there are not, and no threads
    # are begun for algebra that is not done.
    "PYDANTIC_DISABLE_PLUGINS": "__all__",
    "OPENBLAS_NUM_THREADS": "1",
}
PROBE = 20.0  # seconds that a confinement may take to show that it works
DEVICES = ("dri", "nvidia*", "video[0-9]*")
# What Python and its libraries lie in; `/lib` and its like are links on Debian.
SYSTEM = ("/usr", "/bin", "/lib", "/lib64", "/etc/ld.so.cache")


@dataclass(frozen=True)
class View:
    """What a child sees of the disk: files or folders that it reads, and the one folder that it
    writes; and whether it sees the devices that encode.
    """

    reads: tuple[Path, ...] = ()
    writes: Path | None = None
    devices: bool = False


def reading(*paths: Path, writes: Path | None = None) -> View:
    """Give the view of a child that reads some files; of an image sequence it sees the images
    too.
    """
    seen: dict[Path, None] = {}
    for path in map(Path.absolute, paths):
        seen[path] = None
        for more in _behind(path):
            seen[more] = None
    return View(tuple(seen), writes)


def _behind(path: Path) -> list[Path]:
    """List what a description leads to: its folder of links, and the folders that these lead
    into.
    """
    inner = {sequence.DESCRIPTION: sequence.FRAMES, apart.DESCRIPTION: apart.PARTS}.get(path.name)
    if inner is None:
        return []
    frames = path.parent / inner
    with contextlib.suppress(OSError):
        targets = {
            os.path.dirname(os.readlink(one.path)) for one in os.scandir(frames) if one.is_symlink()
        }
        return [frames, *(Path(t) for t in sorted(targets) if os.path.isabs(t))]
    return []


@lru_cache
def way() -> Way:
    """Say how children are confined here: the strictest way that works, tried once."""
    return next(one for one in WAYS if one == WAYS[-1] or _works(one))


def _works(one: Way) -> bool:
    if one == "bubblewrap" and shutil.which("bwrap") is None:
        return False
    if one == "changed user" and os.geteuid() != 0:
        return False
    with tempfile.TemporaryDirectory() as folder:
        os.chmod(folder, 0o755)
        try:
            # The very start of a child: what it is made of must be seen, by whoever it runs as.
            tried = start(
                [sys.executable, "-c", "import ample_crate"],
                View(writes=Path(folder)),
                how=one,
                stderr=subprocess.DEVNULL,
            )
            return tried.wait(PROBE) == 0
        except (OSError, subprocess.SubprocessError):
            return False


def start(
    command: list[str], view: View, how: Way | None = None, **more: Any
) -> subprocess.Popen[str]:
    """Start a command in confinement.

    Args:
        command: what to run.
        view: what it sees.
        how: the way; the one that works here if not given.
        more: as `subprocess.Popen` takes them.

    Raises:
        BadMedia: a file cannot be read by the user without rights that root's children run as.
    """
    taken, user = how or way(), _user(view) if os.geteuid() == 0 else None
    if user is not None and taken != "limits alone":
        _hand(view.writes, user)
    if taken == "bubblewrap":
        given = _as(user, _keepers(view)) if user is not None else []
        command = [*_wrapped(view, user), "--", *given, *command]
    elif taken == "changed user" and user is not None:
        more |= {"user": user, "group": NOBODY, "extra_groups": _groups(view)}
    return subprocess.Popen(
        command,
        env=ENVIRONMENT,
        umask=0o022,
        start_new_session=True,
        text=True,
        errors="replace",
        **more,
    )


def take_back(path: Path) -> None:
    """Make a file that a child made the application's own again."""
    if os.geteuid() == 0:
        os.chown(path, 0, 0, follow_symlinks=False)


def _hand(folder: Path | None, user: int) -> None:
    if folder is not None:
        os.chown(folder, user, NOBODY)


def _user(view: View) -> int:
    """Choose whom root's child runs as: nobody, or a file's owner where nobody else may read it."""
    for path in view.reads:
        with contextlib.suppress(OSError):
            told = path.stat()
            if told.st_mode & stat.S_IROTH:
                continue
            if told.st_uid != 0 and told.st_mode & stat.S_IRUSR:
                return told.st_uid
            raise BadMedia(
                f"'{path.name}' may be read by root alone, and media is never read as root.",
                "Let others read the file (chmod o+r); the folder around it may stay closed.",
            )
    return NOBODY


def _groups(view: View) -> list[int]:
    """List the groups that lead to what a child sees, where folders on the way are closed to
    others.
    """
    found = set()
    found |= set(_keepers(view))
    for path in (*view.reads, *filter(None, [view.writes])):
        for folder in path.absolute().parents:
            told = folder.stat()
            if told.st_mode & stat.S_IXGRP and not told.st_mode & stat.S_IXOTH:
                found.add(told.st_gid)
    return sorted(found)


def devices(root: Path = Path("/dev")) -> list[Path]:
    """List the devices that encode: those of graphics processors, and encoders of video."""
    return sorted(found for name in DEVICES for found in root.glob(name))


def _keepers(view: View) -> list[int]:
    """List the groups that may use the devices that a child sees."""
    if not view.devices:
        return []
    nodes = [node for top in devices() for node in (top, *top.rglob("*"))]
    return sorted({node.stat().st_gid for node in nodes} - {0})


def _as(user: int, groups: list[int]) -> list[str]:
    return [
        "setpriv",
        f"--reuid={user}",
        f"--regid={NOBODY}",
        f"--groups={','.join(map(str, groups))}" if groups else "--clear-groups",
        "--inh-caps=-all",
        "--no-new-privs",
    ]


def _wrapped(view: View, user: int | None) -> list[str]:
    """Give the command line of bubblewrap, up to what it runs."""
    made = [
        "bwrap",
        "--die-with-parent",
        "--unshare-pid",
        "--unshare-net",
        "--unshare-ipc",
        "--unshare-uts",
        "--unshare-cgroup-try",
        "--cap-drop",
        "ALL",
    ]
    # Root needs no user namespace, and gives up being root instead; anybody else gets one, in which
    # nothing is gained.
    made += (
        ["--unshare-user"]
        if user is None
        else ["--cap-add", "CAP_SETUID", "--cap-add", "CAP_SETGID"]
    )
    for name in SYSTEM:
        made += (
            ["--symlink", os.readlink(name), name]
            if os.path.islink(name)
            else ["--ro-bind-try", name, name]
        )
    package = Path(__file__).resolve().parents[1]
    bound = [
        (own, own)
        for own in map(Path, dict.fromkeys((sys.base_prefix, sys.prefix, str(package))))
        if not own.is_relative_to("/usr")
    ]
    # A link is followed here, where it was looked at; inside there is only what it leads to.
    bound += [(Path(os.path.realpath(path)), path) for path in view.reads]
    made += ["--proc", "/proc", "--dev", "/dev", "--perms", "1777", "--tmpfs", "/tmp"]
    if view.devices:
        for device in devices():
            made += ["--dev-bind-try", str(device), str(device)]
        # By these the library finds out what the devices are.
        made += ["--ro-bind-try", "/sys", "/sys"]
    # Folders on the way are made open, for bubblewrap would close them to anybody but root.
    places = [place for _, place in bound] + (
        [view.writes.absolute()] if view.writes is not None else []
    )
    for folder in sorted(
        {
            folder
            for place in places
            for folder in place.parents
            if folder != folder.parent and str(folder) != "/tmp"
        }
    ):
        made += ["--perms", "0755", "--dir", str(folder)]
    for path, place in bound:
        made += ["--ro-bind-try", str(path), str(place)]
    if view.writes is not None:
        made += ["--bind", os.path.realpath(view.writes), str(view.writes.absolute())]
    return made
