"""Times of the day, and the zones that they are of."""

from __future__ import annotations

from typing import Annotated
from zoneinfo import available_timezones

from pydantic import AfterValidator, Field


def every() -> list[str]:
    """List the time zones that a person may choose, by the names of the tz database."""
    by_place = [name for name in available_timezones() if "/" in name]
    return ["UTC", *sorted(name for name in by_place if not name.startswith("Etc/"))]


def _known(zone: str) -> str:
    if zone not in available_timezones():
        raise ValueError(f"'{zone}' is no time zone; write one such as Europe/Oslo or UTC")
    return zone


Zone = Annotated[str, Field(max_length=60), AfterValidator(_known)]
TimeOfDay = Annotated[str, Field(pattern=r"^([01]\d|2[0-3]):[0-5]\d$")]
