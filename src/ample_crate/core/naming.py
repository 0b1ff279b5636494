"""File names: taken from strangers safely, and made as a recipient asks."""

from __future__ import annotations

import re
import unicodedata

from .errors import BadValue

ENDINGS = {"mp4": ".mp4", "mov": ".mov", "mpeg-ps": ".mpg", "mpeg-ts": ".ts", "mxf": ".mxf", "matroska": ".mkv", "avi": ".avi"}
RESERVED = {"con", "prn", "aux", "nul"} | {f"{n}{i}" for n in ("com", "lpt") for i in range(1, 10)}


def safe_name(text: str) -> str:
    """Turn a name somebody else wrote into one that is safe to store, keeping what can be kept.

    Path separators, control and direction-changing characters go, Unicode is composed (NFC), and
    the name is cut to 200 bytes of UTF-8 with its ending kept.

    Raises:
        BadValue: nothing usable is left.
    """
    name = unicodedata.normalize("NFC", text.replace("\\", "/").rsplit("/", 1)[-1])
    name = "".join(c for c in name if unicodedata.category(c)[0] != "C")
    name = "".join(" " if unicodedata.category(c)[0] == "Z" else c for c in name).strip(" .")
    stem, dot, ending = name.rpartition(".")
    if not dot:
        stem, ending = name, ""
    if not name or not stem.strip(" ."):
        raise BadValue(f"'{text}' leaves no usable file name.", "Rename the file and hand it in again.")
    if stem.lower() in RESERVED:
        stem = f"{stem}_"
    tail = f".{ending}" if ending else ""
    while len((stem + tail).encode()) > 200:
        stem = stem[:-1]
    return stem + tail


def slug(text: str) -> str:
    """Turn a title into lower-case words joined by underscores, in plain ASCII."""
    plain = unicodedata.normalize("NFKD", text).encode("ascii", "ignore").decode()
    return re.sub(r"[^A-Za-z0-9]+", "_", plain).strip("_").lower() or "item"


def stem(name: str) -> str:
    """Give a file name without its ending."""
    head, dot, ending = name.rpartition(".")
    return head if dot and 0 < len(ending) <= 5 and ending.isalnum() else name


def deliverable_name(pattern: str, wrapper: str, master: str, recipient: str, revision: int) -> str:
    """Make a file name from a spec's pattern with the fields master, recipient and revision.

    Raises:
        BadValue: the pattern has a field that does not exist.
    """
    try:
        made = pattern.format(master=slug(stem(master)), recipient=slug(recipient), revision=revision)
    except (KeyError, IndexError, ValueError) as error:
        raise BadValue(
            f"The name pattern '{pattern}' has a field that is not known ({error}).",
            "Use {master}, {recipient} and {revision}.",
        ) from None
    return safe_name(made + ENDINGS.get(wrapper, ""))
