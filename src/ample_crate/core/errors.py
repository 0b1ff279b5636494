"""The family of errors a person may meet: what happened, and what to do about it."""

from __future__ import annotations

import errno

LONGEST = (
    1800  # characters of a message: what was typed may be longer than anybody wants to read again
)


class AmpleError(Exception):
    """An error with a cause and a way out, both in plain words.

    Attributes:
        code: short stable name of the kind of error, for programs.
        what: what happened, naming the cause.
        way_out: what the person can do next.
        said: the own words of what failed, such as an encoder's; empty where it said nothing.
    """

    code = "error"

    def __init__(self, what: str, way_out: str = "", code: str | None = None) -> None:
        what = what if len(what) <= LONGEST else f"{what[: LONGEST // 2]} … {what[-LONGEST // 2 :]}"
        super().__init__(what)
        self.what = what
        self.way_out = way_out
        self.said = ""
        if code is not None:
            self.code = code

    def as_json(self) -> dict[str, str]:
        """Give the error as plain JSON: {code, what, way_out}, and what failed said itself, if
        anything.
        """
        plain = {"code": self.code, "what": self.what, "way_out": self.way_out}
        return plain | ({"said": self.said} if self.said else {})

    def sentence(self) -> str:
        """Give what happened and the way out as one line."""
        return f"{self.what} {self.way_out}".strip()


class BadMedia(AmpleError):
    """The bytes handed in cannot be read as picture or sound."""

    code = "bad-media"


class BadSpec(AmpleError):
    """A spec file does not follow the published schema or contradicts itself."""

    code = "bad-spec"


class BadValue(AmpleError):
    """A value could not be understood in its unit."""

    code = "bad-value"


class Impossible(AmpleError):
    """What is asked cannot be made."""

    code = "impossible"


class OverLimit(AmpleError):
    """A child process reached its memory, time or file-size limit."""

    code = "over-limit"


class NoRoom(AmpleError):
    """The disk has no room for the work."""

    code = "no-room"


class Disk(AmpleError):
    """A disk refused what was asked of it, for another cause than room."""

    code = "disk"


class Refused(AmpleError):
    """The request is understood and not allowed as things stand."""

    code = "refused"


class Changed(AmpleError):
    """A file is not the one that was read, measured or sealed."""

    code = "changed"


class NotFound(AmpleError):
    """The thing asked for does not exist."""

    code = "not-found"


class Cancelled(AmpleError):
    """A person stopped the work."""

    code = "cancelled"


REFUSALS = {
    errno.EROFS: ("can only be read", "Make its disk writable, then try again."),
    errno.EACCES: (
        "may not be read or written",
        "Give the application access to it, then try again.",
    ),
    errno.EPERM: (
        "may not be read or written",
        "Give the application access to it, then try again.",
    ),
    errno.ENOENT: ("is not there any more", "Put it back, then try again."),
    errno.ENOTDIR: (
        "lies under a file, where a folder belongs",
        "Move that file away, then try again.",
    ),
    errno.EISDIR: ("is a folder, where a file belongs", "Move that folder away, then try again."),
    errno.EEXIST: ("is there already, and is something else", "Move it away, then try again."),
    errno.ENAMETOOLONG: ("has a name longer than its disk takes", "Choose a shorter name."),
    errno.EIO: (
        "could not be read or written to its end",
        "Look at its disk or its line, then try again.",
    ),
    errno.ESTALE: ("is on a line that was cut", "Bring the network folder back, then try again."),
}


def of_the_disk(error: OSError) -> AmpleError | None:
    """Tell what a disk refused, by the error's number; None for what is no matter of disks or
    folders.

    Only a name and its folder's are told: where things lie on this machine is nobody else's matter.
    """
    name = "/".join(str(error.filename or "").rstrip("/").split("/")[-2:])
    if error.errno in (errno.ENOSPC, errno.EDQUOT):
        return NoRoom(
            "The disk is full.",
            "Free some room, then try again; nothing was left under a final name.",
        )
    if error.errno not in REFUSALS:
        return None
    what, way_out = REFUSALS[error.errno]
    return Disk(f"'{name}' {what}." if name else f"A file or folder {what}.", way_out)
