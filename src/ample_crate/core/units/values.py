"""Values of facts and requirements by kind: read from text, written to JSON, shown with units.

Rates, times and aspects are `fractions.Fraction`; sizes are bytes; bit rates are
bits a second. MB is 10**6 bytes and MiB is 2**20 bytes, and neither stands for the other.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import NamedTuple

from ..errors import BadValue


class Size(NamedTuple):
    """A picture's storage size in samples."""

    width: int
    height: int

    def __str__(self) -> str:
        return f"{self.width}x{self.height}"


Value = str | bool | int | Fraction | Size
Json = str | bool | int

BYTE_UNITS = {
    "B": 1,
    "kB": 10**3,
    "MB": 10**6,
    "GB": 10**9,
    "KiB": 2**10,
    "MiB": 2**20,
    "GiB": 2**30,
}
BIT_RATE_UNITS = {"b/s": 1, "kb/s": 10**3, "Mb/s": 10**6, "Gb/s": 10**9}
BIT_UNITS = {"bits": 1, "bit": 1, "kbit": 10**3, "Mbit": 10**6}
BYTE_RATE_UNITS = {"B/s": 8, "kB/s": 8 * 10**3, "MB/s": 8 * 10**6, "MiB/s": 8 * 2**20}
HERTZ_UNITS = {"Hz": 1, "kHz": 10**3}
BIT_RATE_WORDS = {
    "bps": 1,
    "bit/s": 1,
    "kbps": 10**3,
    "kbit/s": 10**3,
    "Mbps": 10**6,
    "Mbit/s": 10**6,
    "Gbps": 10**9,
    "Gbit/s": 10**9,
}
TIME_UNITS = {"s": Fraction(1), "ms": Fraction(1, 1000), "min": Fraction(60), "h": Fraction(3600)}
# What stands between thousands where figures are shown: "2 000 000 bits".
THOUSANDS = re.compile(r"(?<=\d)[ \u00a0\u202f](?=\d{3}(?!\d))")
CLOCK = re.compile(r"\s*(-?)(\d{1,9}):([0-5]\d):([0-5]\d(?:\.\d{1,40})?)\s*")
# A number is read digit by digit: a few characters such as 1e999999999 stand for more than any
# memory holds.
NUMBER = re.compile(r"[-+]?(?:\d{1,400}(?:\.\d{0,400})?|\.\d{1,400})(?:[eE][-+]?\d{1,2})?")
MOST = 10**30  # of anything, in any unit
LONGEST_FIGURE = 1000  # characters
# Rates that are spoken as decimals and mean a fraction over 1001 (SMPTE ST 12-1 names them so).
SPOKEN_RATES = {
    Fraction(said): Fraction(exact, 1001)
    for exact, names in {
        24000: ("23.976", "23.98"),
        30000: ("29.97",),
        48000: ("47.952", "47.95"),
        60000: ("59.94",),
        120000: ("119.88",),
    }.items()
    for said in names
}


def fraction(text: object) -> Fraction:
    """Read "25", "29.97", "30000/1001", "16:9" or "1.85:1" as an exact fraction.

    Raises:
        BadValue: the text is not a number, or divides by nought.
    """
    if isinstance(text, bool):
        raise BadValue(f"'{text}' is not a number.", "Write a number such as 25 or 30000/1001.")
    if isinstance(text, Fraction):
        return text
    if isinstance(text, float):
        text = repr(text)
    try:
        parts = [p.strip() for p in re.split(r"[:/]", THOUSANDS.sub("", str(text).strip()))]
        if len(parts) > 2 or not all(NUMBER.fullmatch(p) for p in parts):
            raise ValueError(text)
        found = Fraction(parts[0]) / Fraction(parts[1] if len(parts) > 1 else 1)
    except (ValueError, ZeroDivisionError):
        raise BadValue(
            f"{_short(text)} is not a number or a ratio.", "Write it as 25, 30000/1001 or 16:9."
        ) from None
    if abs(found) > MOST:
        raise BadValue(
            f"{_short(text)} is more than there is of anything.", "Write a smaller figure."
        )
    return found


def _short(text: object) -> str:
    """Quote what was written, as far as a message has room for it."""
    try:
        said = str(text)
    except ValueError:  # more digits than Python writes
        said = "a number of thousands of digits"
    return f"'{said[:60]}…'" if len(said) > 60 else f"'{said}'"


def _united(
    text: object, units: dict[str, int] | dict[str, Fraction], name: str, bare: str
) -> Fraction:
    if isinstance(text, int | float | Fraction) and not isinstance(text, bool):
        return fraction(text)
    match = re.fullmatch(r"\s*([-+]?[0-9./]+)\s*([A-Za-z/]*)\s*", THOUSANDS.sub("", str(text)))
    if not match:
        raise BadValue(
            f"{_short(text)} is not a {name}.", f"Write a number and a unit: {', '.join(units)}."
        )
    number, unit = match.groups()
    if unit == "":
        unit = bare
    if unit not in units:
        raise BadValue(
            f"'{text}' has the unit '{unit}', which is not one for a {name}.",
            f"Use one of {', '.join(u for u in units if u and u not in BIT_RATE_WORDS)}.",
        )
    return fraction(number) * units[unit]


def _whole(value: Fraction, text: object) -> int:
    if value.denominator != 1:
        raise BadValue(
            f"{_short(text)} does not come to a whole number.", "Give a figure that does."
        )
    return int(value)


def read_bytes(text: object) -> int:
    """Read a byte size such as "30 MB" (30 * 10**6) or "30 MiB" (30 * 2**20)."""
    return _whole(_united(text, BYTE_UNITS, "size in bytes", "B"), text)


def read_bit_count(text: object) -> int:
    """Read a number of bits such as "1835008 bits" or "9.8 Mbit"."""
    return _whole(_united(text, BIT_UNITS, "number of bits", "bits"), text)


def read_bit_rate(text: object) -> int:
    """Read a bit rate such as "50 Mb/s" or "50 Mbps"; "2 MB/s" is 16 Mb/s."""
    return _whole(
        _united(text, BIT_RATE_UNITS | BYTE_RATE_UNITS | BIT_RATE_WORDS, "bit rate", "b/s"), text
    )


def read_hertz(text: object) -> int:
    """Read a sample rate such as "48 kHz"."""
    return _whole(_united(text, HERTZ_UNITS, "sample rate", "Hz"), text)


def read_seconds(text: object) -> Fraction:
    """Read a time such as "20 ms", "1/25 s" or "0:01:30.5" (hours, minutes, seconds)."""
    clock = CLOCK.fullmatch(str(text))
    if clock:
        sign, hours, minutes, seconds = clock.groups()
        return (int(hours) * 3600 + int(minutes) * 60 + Fraction(seconds)) * (-1 if sign else 1)
    return _united(text, TIME_UNITS, "time", "s")


def read_decibel(text: object) -> Fraction:
    """Read a level such as "-23 LUFS" or "-1 dBTP"; the unit is optional."""
    units = {"LUFS": 1, "LU": 1, "dB": 1, "dBTP": 1, "dBFS": 1, "": 1}
    return _united(text, units, "level", "")


def read_size(text: object) -> Size:
    """Read a picture size such as "1920x1080".

    Raises:
        BadValue: not two whole numbers above nought.
    """
    if isinstance(text, Size):
        return text
    match = re.fullmatch(r"\s*(\d{1,6})\s*[x×]\s*(\d{1,6})\s*", str(text))
    if not match or not int(match[1]) or not int(match[2]):
        raise BadValue(f"'{text}' is not a picture size.", "Write it as 1920x1080.")
    return Size(int(match[1]), int(match[2]))


def read_flag(text: object) -> bool:
    """Read yes or no."""
    if isinstance(text, bool):
        return text
    if str(text).lower() in {"yes", "true"}:
        return True
    if str(text).lower() in {"no", "false"}:
        return False
    raise BadValue(f"'{text}' is neither yes nor no.", "Write yes or no.")


def read_rate(text: object) -> Fraction:
    """Read a frame rate: "25", "30000/1001", "29.97 fps". A decimal of the trade stands for its
    fraction: 29.97 is 30000/1001.
    """
    match = re.fullmatch(r"(.*?)\s*(?:fps)?\s*(?:\(([0-9]+/[0-9]+)\))?\s*", str(text))
    said = fraction((match[2] or match[1]) if match else text)
    return said if match and "/" in (match[2] or match[1]) else SPOKEN_RATES.get(said, said)


def _suffixed(read: Callable[[object], Value], suffix: str) -> Callable[[object], Value]:
    """Read figures that may have their unit behind them, as they are shown."""
    return lambda text: read(
        text.strip().removesuffix(suffix).strip() if isinstance(text, str) else text
    )


def read_count(text: object) -> int:
    """Read a whole number."""
    return _whole(fraction(text), text)


def read_text(text: object) -> str:
    """Read a word of the trade as it stands."""
    if isinstance(text, bool | list | dict) or text is None:
        raise BadValue(f"'{text}' is not a word.", "Put the word in quotes.")
    return str(text)


def _decimal(value: Fraction, places: int) -> str:
    text = f"{float(value):.{places}f}"
    return text.rstrip("0").rstrip(".") if "." in text else text


def show_bytes(value: int) -> str:
    """Show a byte size in decimal units with the exact count where it is small."""
    if value < 10**3:
        return f"{value} B"
    for unit in ("GB", "MB", "kB"):
        if value >= BYTE_UNITS[unit]:
            return f"{value / BYTE_UNITS[unit]:.2f} {unit}"
    raise AssertionError(value)


def show_bit_rate(value: int) -> str:
    """Show a bit rate in Mb/s or kb/s."""
    if value >= 10**6:
        return f"{_decimal(Fraction(value, 10**6), 2)} Mb/s"
    return f"{_decimal(Fraction(value, 1000), 1)} kb/s"


def show_bit_count(value: int) -> str:
    """Show a number of bits exactly: in Mbit or kbit where that is short, else to the bit."""
    for unit, size in (("Mbit", 10**6), ("kbit", 10**3)):
        if value >= size and value % 1000 == 0:
            return f"{_decimal(Fraction(value, size), 3)} {unit}"
    return f"{value:,} bits".replace(",", " ")


def show_rate(value: Fraction) -> str:
    """Show a frame rate, with its fraction where it is not whole."""
    if value.denominator == 1:
        return f"{value.numerator} fps"
    return f"{_decimal(value, 3)} fps ({value.numerator}/{value.denominator})"


def show_seconds(value: Fraction) -> str:
    """Show a time: ms under a tenth of a second, s under a minute, else h:mm:ss."""
    if abs(value) < Fraction(1, 10):
        return f"{_decimal(value * 1000, 1)} ms"
    if abs(value) < 60:
        return f"{_decimal(value, 3)} s"
    sign, thousandths = "-" if value < 0 else "", round(abs(value) * 1000)
    whole, rest = divmod(thousandths, 1000)
    tail = f".{rest:03d}".rstrip("0") if rest else ""
    return f"{sign}{whole // 3600}:{whole // 60 % 60:02d}:{whole % 60:02d}{tail}"


def show_ratio(value: Fraction) -> str:
    """Show an aspect as a:b."""
    return f"{value.numerator}:{value.denominator}"


@dataclass(frozen=True)
class Kind:
    """How values of one kind are read, shown and compared.

    Attributes:
        name: the kind's name, as the API gives it.
        read: reads a value from YAML or JSON; raises BadValue.
        show: gives the value in the trade's units.
        ordered: whether "at least" and "at most" mean anything.
        stored: turns the value into what JSON carries without loss.
    """

    name: str
    read: Callable[[object], Value]
    show: Callable[..., str]
    ordered: bool
    stored: Callable[..., Json]


def _stored_fraction(value: Fraction) -> str:
    return f"{value.numerator}/{value.denominator}"


def _level(text: object) -> Fraction:
    return fraction(text)


def _within_reason(kind: Kind) -> Kind:
    """Keep what no figure is from being looked at any closer."""

    def read(value: object) -> Value:
        if (isinstance(value, str) and len(value) > LONGEST_FIGURE) or (
            isinstance(value, int) and abs(value) > MOST
        ):
            raise BadValue(
                f"{_short(value)} is more than there is of anything.", "Write a smaller figure."
            )
        return kind.read(value)

    return replace(kind, read=read) if kind.ordered else kind


KINDS: dict[str, Kind] = {
    k.name: _within_reason(k)
    for k in (
        Kind("text", read_text, str, False, str),
        Kind("name", read_text, str, False, str),
        Kind("flag", read_flag, lambda v: "yes" if v else "no", False, bool),
        Kind("count", read_count, lambda v: f"{v:,}".replace(",", " "), True, int),
        Kind("bits", _suffixed(read_count, "bit"), lambda v: f"{v} bit", True, int),
        Kind("size", read_size, lambda v: f"{v.width} x {v.height}", False, str),
        Kind("ratio", fraction, show_ratio, True, _stored_fraction),
        Kind("rate", read_rate, show_rate, True, _stored_fraction),
        Kind("seconds", read_seconds, show_seconds, True, _stored_fraction),
        Kind("bytes", read_bytes, show_bytes, True, int),
        Kind("bit_count", read_bit_count, show_bit_count, True, int),
        Kind("bit_rate", read_bit_rate, show_bit_rate, True, int),
        Kind("hertz", read_hertz, lambda v: f"{_decimal(Fraction(v, 1000), 3)} kHz", True, int),
        Kind("level", _level, lambda v: _decimal(v, 1), True, _stored_fraction),
        Kind(
            "percent",
            _suffixed(_level, "%"),
            lambda v: f"{_decimal(v, 2)} %",
            True,
            _stored_fraction,
        ),
        Kind("figure", _level, lambda v: _decimal(v, 2), True, _stored_fraction),
        Kind("degrees", _suffixed(read_count, "°"), lambda v: f"{v}°", True, int),
        Kind("lu", read_decibel, lambda v: f"{float(v):.1f} LU", True, _stored_fraction),
        Kind("lufs", read_decibel, lambda v: f"{float(v):.1f} LUFS", True, _stored_fraction),
        Kind("dbtp", read_decibel, lambda v: f"{float(v):.1f} dBTP", True, _stored_fraction),
    )
}
