"""Names of many items, filled in together: from what their masters are called, and by number."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

import re2

from ..errors import BadValue
from . import naming

# Such as {number}, or {number:03} for three figures.
NUMBER = re.compile(r"\{number(?::0([1-9]))?\}")
FIELD = re.compile(r"\{([a-z][a-z_]{0,30})\}")
ANYTHING = "{*}"
PARTS = re.compile(r"(\{\*\}|\{[a-z][a-z_]{0,30}\})")


@dataclass(frozen=True)
class Filling:
    """How the fields of names are filled in, item by item.

    Attributes:
        fields: what stands in each field: "{episode}" as read from the master's name, "{number}"
        or "{number:03}", or plain text.
        pattern: of the masters' names without their endings, such as "lichen_e{episode}_{*}", of
        which letters may be small or large; empty where nothing is read from them.
        first: the number of the first item.
    """

    fields: Mapping[str, str]
    pattern: str = ""
    first: int = 1

    def values(self, name: str, place: int) -> dict[str, str]:
        """Give what is filled in for an item, by field.

        Args:
            name: of its master.
            place: of the item, from 0.

        Raises:
            BadValue: the master's name does not fit the pattern, or a field is used that is not
                read from it.
        """
        read = self._read(naming.stem(name))
        number = self.first + place
        return {field: _filled(text, read, number) for field, text in self.fields.items()}

    def _read(self, stem: str) -> dict[str, str]:
        if not self.pattern:
            return {}
        found = re2.compile(expression(self.pattern)).fullmatch(stem)
        if found is None:
            raise BadValue(
                f"The name '{stem}' does not fit {self.pattern}.",
                f"Write {ANYTHING} for what may be anything, or fill this one in by hand.",
            )
        return {key: str(value) for key, value in found.groupdict().items()}


def expression(pattern: str) -> str:
    """Give the regular expression (RE2) of a pattern of masters' names.

    Raises:
        BadValue: a field stands in it twice, two stand side by side, or braces do not close.
    """
    made, seen, touching = "(?i)", set[str](), False
    for part in filter(None, PARTS.split(pattern)):
        is_field = part.startswith("{") and part.endswith("}")
        if is_field and (touching or part in seen):
            raise BadValue(
                f"The pattern '{pattern}' cannot tell its fields apart.",
                "Name each field once, with a mark between two of them.",
            )
        if not is_field and re.search(r"[{}]", part):
            raise BadValue(
                f"The braces of the pattern '{pattern}' do not close.",
                "Write fields as {episode}, in small letters, and {*} for anything.",
            )
        seen |= {part} - {ANYTHING}
        named = "(?:.*?)" if part == ANYTHING else f"(?P<{part[1:-1]}>.+?)"
        made += named if is_field else re2.escape(part)
        touching = is_field
    return made


def _filled(text: str, read: Mapping[str, str], number: int) -> str:
    """Fill in what a text has in braces."""
    own = "number" in read  # of the masters' names, which then goes before the count
    counted = text if own else NUMBER.sub(lambda f: f"{number:0{f[1] or 1}d}", text)
    unknown = [key for key in FIELD.findall(counted) if key not in read]
    if unknown:
        raise BadValue(
            f"{{{unknown[0]}}} is not read from the masters' names.",
            "Have the pattern read it, or write {number} or plain text.",
        )
    return FIELD.sub(lambda found: read[found[1]], counted)
