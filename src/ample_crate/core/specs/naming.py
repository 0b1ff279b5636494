"""File names: taken from strangers safely, and made as a recipient asks."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Mapping
from dataclasses import dataclass

import re2

from ..errors import BadValue
from . import expressions

LONGEST_NAME, LONGEST_ENDING = 200, 32  # bytes of UTF-8
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
    if not dot or len(ending.encode()) > LONGEST_ENDING:
        # What is as long as this is no ending, but a name with a full stop in it.
        stem, ending = name, ""
    if not name or not stem.strip(" ."):
        raise BadValue(
            f"'{text[:100]}' leaves no usable file name.", "Rename the file and hand it in again."
        )
    if stem.lower() in RESERVED:
        stem = f"{stem}_"
    tail = f".{ending}" if ending else ""
    most = LONGEST_NAME - len(tail.encode())
    # A letter cut in two by its bytes is left out.
    cut = stem.encode()[:most].decode(errors="ignore")
    return cut.rstrip(" .") + tail if len(cut) < len(stem) else stem + tail


def slug(text: str) -> str:
    """Turn a title into lower-case words joined by underscores, in plain ASCII."""
    plain = unicodedata.normalize("NFKD", text).encode("ascii", "ignore").decode()
    return re.sub(r"[^A-Za-z0-9]+", "_", plain).strip("_").lower() or "item"


def folder_of(head: str) -> str:
    """Name the folder of images by what stands before their number."""
    return head.rstrip("_-. ") or "images"


def stem(name: str) -> str:
    """Give a file name without its ending."""
    head, dot, ending = name.rpartition(".")
    return head if dot and 0 < len(ending) <= 5 and ending.isalnum() else name


# What the fields that are filled in by themselves look like; the others take any allowed character.
SHAPES = {
    "revision": "[0-9]{1,3}",
    "version": "[0-9]{1,3}",
    "crate": "[0-9]{1,6}",
    "date": "[0-9]{8}",
    "size": "[0-9]{1,5}x[0-9]{1,5}",
    "codec": "[A-Za-z0-9]{1,12}",
    "rate": "[0-9]{1,3}(?:[.p][0-9]{1,3})?",
    # Of a sequence the first and last, as its name as a whole has them.
    "frame": r"(?:[0-9]{1,12}|\[[0-9]{1,12}-[0-9]{1,12}\])",
}
FRAME = "frame"  # the number of an image
NUMBER = "[0-9]{1,12}"
WORDS = ("master", "production", "episode", "recipient")
FIELDS = (*WORDS, *SHAPES)
# An episode's number where the master's name tells it: ep03, e3, s01e03.
EPISODE = re.compile(r"(?:^|[_\W])(?:s\d{1,2})?(?:ep|e)[_-]?(\d{1,3})(?=$|[_\W])", re.IGNORECASE)


@dataclass(frozen=True)
class Part:
    """A piece of a pattern: plain text, or a field; parts of the same bracket share a number."""

    text: str
    field: bool
    bracket: int  # 0 outside of brackets


class Pattern:
    """A pattern of file names such as `{production}[_e{episode}]_{date}`, and the characters it may
    use.

    Args:
        text: the pattern without ending; what stands in brackets is left out where a field in it
        has no value.
        free: regular expressions of the free fields, by name.
        characters: ranges and single characters, parted by spaces: `A-Z 0-9 _`.
        case: "any", "lower" or "upper".
        longest: characters of the name with its ending.

    Raises:
        BadValue: an unknown field, brackets that do not close, or characters that cannot be read.
    """

    def __init__(
        self, text: str, free: Mapping[str, str], characters: str, case: str, longest: int
    ) -> None:
        self.text, self.free, self.case, self.longest = text, dict(free), case, longest
        self.allowed = _characters(characters, case)
        self.parts = _parts(text, {*FIELDS, *free})
        if not any(p.field for p in self.parts) and not text.strip():
            raise BadValue("The name pattern is empty.", "Write at least {master}.")
        for key, expression in self.free.items():
            if not re.fullmatch(r"[a-z][a-z_]{0,30}", key) or key in FIELDS:
                raise BadValue(
                    f"'{key}' cannot be a free field of the name.",
                    "Use a word in lower case that is not one of the fixed fields.",
                )
            try:
                re2.compile(expression)
            except re2.error:
                raise BadValue(
                    f"'{expression}' is no regular expression.",
                    f"Mend the rule of the field '{key}'.",
                ) from None
        self._numbered_last()
        odd = sorted(
            {c for p in self.parts if not p.field for c in self._cased(p.text)} - self.allowed
        )
        if odd:
            raise BadValue(
                f"The pattern '{text}' has '{odd[0]}', which its own characters do not allow.",
                "Allow it, or leave it out.",
            )

    def _numbered_last(self) -> None:
        """Make sure that the number of an image is the end of its name, and stands off from the
        rest.
        """
        places = [n for n, p in enumerate(self.parts) if p.field and p.text == FRAME]
        last = len(self.parts) - 1
        if not places or (places == [last] and not self.parts[last].bracket and self._apart(last)):
            return
        raise BadValue(
            f"The name pattern '{self.text}' has {{{FRAME}}} where it cannot stand.",
            f"Let the number come last, after a mark: {{master}}_{{{FRAME}}}.",
        )

    def _apart(self, place: int) -> bool:
        """Say whether a part begins the name, or comes after plain text that ends with a mark."""
        before = self.parts[place - 1] if place else None
        return before is None or not (before.field or before.text[-1].isalnum())

    @property
    def fields(self) -> list[str]:
        """List the fields that every name has."""
        return [p.text for p in self.parts if p.field and not p.bracket]

    @property
    def optional(self) -> list[str]:
        """List the fields that a name may leave out."""
        return [p.text for p in self.parts if p.field and p.bracket]

    def _cased(self, text: str) -> str:
        return (
            text.lower() if self.case == "lower" else text.upper() if self.case == "upper" else text
        )

    def _class(self) -> str:
        return "[" + "".join(re.escape(c) for c in sorted(self.allowed)) + "]"

    def expression(self) -> str:
        """Give the regular expression (RE2) of every name that the pattern makes, with its
        ending.
        """
        made, open_bracket = "", 0
        for part in self.parts:
            if part.bracket != open_bracket:
                made += ")?" if open_bracket else ""
                made += "(?:" if part.bracket else ""
                open_bracket = part.bracket
            if not part.field:
                made += re.escape(self._cased(part.text))
            elif part.text in self.free:
                made += f"(?:{self.free[part.text]})"
            else:
                made += SHAPES.get(part.text, f"{self._class()}+")
        return made + (")?" if open_bracket else "") + r"\.[A-Za-z0-9]{1,5}"

    def words(self) -> str:
        """Say the pattern for a reader."""
        return self.text if self.case == "any" else f"{self.text}, in {self.case} case"

    def name(self, values: Mapping[str, str], ending: str) -> str:
        """Make a name.

        Args:
            values: by field; those of master, production, episode and recipient are brought to the
            allowed characters.
            ending: with its full stop.

        Raises:
            BadValue: a field that every name has is not given, or does not fit its rule.
        """
        known = {key: self._fit(key, value) for key, value in values.items() if value}
        for part in self.parts:
            if part.field and not part.bracket and not known.get(part.text):
                raise BadValue(
                    f"The name needs {expressions.with_article(part.text)}.",
                    f"Give it: the recipient's pattern is {self.text}.",
                )
        dropped = {p.bracket for p in self.parts if p.field and p.bracket and not known.get(p.text)}
        kept = [p for p in self.parts if p.bracket not in dropped]
        made = "".join(known[p.text] if p.field else self._cased(p.text) for p in kept)
        over = len(made + ending) - self.longest
        if over > 0:
            # The master's own name is cut first: the other fields carry what the recipient sorts
            # by.
            cut = known.get("master", "")[: max(0, len(known.get("master", "")) - over)]
            if not cut or "master" not in {p.text for p in kept}:
                raise BadValue(
                    f"The name '{made}{ending}' is {len(made + ending)} characters long; "
                    f"{self.longest} are allowed.",
                    "Shorten a field of it.",
                )
            made = "".join(
                (cut if p.text == "master" else known[p.text]) if p.field else self._cased(p.text)
                for p in kept
            )
        return safe_name(made + ending)

    def wanting(self, values: Mapping[str, str]) -> list[str]:
        """Say of every field that a name needs what is wrong with it: missing, or not of its
        shape.
        """
        said: list[tuple[str, str]] = []
        for part in self.parts:
            if not part.field or part.text in {key for key, _ in said}:
                continue
            value = values.get(part.text, "").strip()
            if not value:
                if not part.bracket:
                    said.append((part.text, f"{part.text}{self.shape(part.text)}"))
                continue
            odd = self._odd(part.text, value)
            if odd:
                said.append((part.text, f"{part.text}: '{value}' {odd}"))
        return [text for _, text in said]

    def _odd(self, field: str, value: str) -> str:
        """Say what is wrong with a field's value, if anything is."""
        try:
            fitting = self._fit(field, value)
        except BadValue:
            return f"is not{self.shape(field)[1:] or ' of its shape'}"
        return "" if fitting else "leaves nothing of the characters that the name allows"

    def shape(self, key: str) -> str:
        """Say the shape that a field must have: ", one to three figures"; nothing where it takes
        any allowed character.
        """
        expression = NUMBER if key == FRAME else self.free.get(key) or SHAPES.get(key)
        return f", {expressions.in_words(expression)}" if expression else ""

    def fits(self, key: str, value: str) -> None:
        """Make sure that a person's value can stand in a field.

        Raises:
            BadValue: there is no such field, or the value does not fit its rule.
        """
        if key not in {*self.fields, *self.optional}:
            raise BadValue(
                f"The name has no field '{key}'.", f"The recipient's pattern is {self.text}."
            )
        if value and not self._fit(key, value):
            raise BadValue(
                f"'{value}' leaves nothing of the characters that the name allows.",
                "Write it with other letters.",
            )

    def _fit(self, key: str, value: str) -> str:
        if key in self.free:
            value = self._cased(value.strip())
            if re2.fullmatch(self.free[key], value) is None:
                raise BadValue(
                    f"'{value}' does not fit the rule of the field '{key}'.",
                    f"It takes {expressions.in_words(self.free[key])}.",
                )
            return value
        if key == FRAME and re.fullmatch(NUMBER, value.strip()) is None:
            raise BadValue(
                f"'{value}' is no number of an image.",
                f"Write the first one with its noughts{self.shape(FRAME)}, such as 0001001.",
            )
        if key not in WORDS:
            return self._cased(value.strip())
        plain = self._cased(unicodedata.normalize("NFKD", value).encode("ascii", "ignore").decode())
        joint = next((c for c in "_-." if c in self.allowed), "")
        # Full stops inside a field would read as endings.
        made = "".join(c if c in self.allowed and c != "." else joint for c in plain)
        return re.sub(rf"{re.escape(joint)}+", joint, made).strip(joint) if joint else made


def _characters(text: str, case: str) -> frozenset[str]:
    found: set[str] = set()
    for token in text.split():
        ends = re.fullmatch(r"(.)-(.)", token)
        if ends and ends[1] <= ends[2]:
            found |= {chr(n) for n in range(ord(ends[1]), ord(ends[2]) + 1)}
        elif len(token) == 1:
            found.add(token)
        else:
            raise BadValue(
                f"'{token}' is no range of characters.",
                "Write ranges and single characters parted by spaces, such as A-Z 0-9 _.",
            )
    odd = sorted(
        c for c in found if not c.isascii() or not c.isprintable() or c in '/\\:*?"<>|{}[]'
    )
    if odd or not found:
        raise BadValue(
            f"'{odd[0]}' cannot stand in a file name."
            if odd
            else "No character is allowed in the name.",
            "Use letters, digits and _ - . or the like.",
        )
    return frozenset(
        c for c in found if case == "any" or c == (c.lower() if case == "lower" else c.upper())
    )


def _parts(text: str, known: set[str]) -> list[Part]:
    parts: list[Part] = []
    bracket = last = 0
    for token in re.findall(r"\{[^{}]*\}|\[|\]|[^{}\[\]]+|.", text):
        if token == "[" and not bracket:
            bracket = last = last + 1
        elif token == "]" and bracket:
            bracket = 0
        elif len(token) > 2 and token[0] == "{" and token[-1] == "}":
            if token[1:-1] not in known:
                raise BadValue(
                    f"The name pattern '{text}' has a field that is not known ({token[1:-1]}).",
                    f"Use {', '.join('{' + f + '}' for f in FIELDS)}, or a free field with a rule "
                    f"of its own.",
                )
            parts.append(Part(token[1:-1], True, bracket))
        elif token in "[]{}":
            raise BadValue(
                f"The brackets of the name pattern '{text}' do not close.",
                "Write fields as {master}, and what may be left out as [_{episode}].",
            )
        else:
            parts.append(Part(token, False, bracket))
    if bracket:
        raise BadValue(
            f"The brackets of the name pattern '{text}' do not close.",
            "Write what may be left out as [_{episode}].",
        )
    return parts


def episode(master: str) -> str:
    """Give the episode's number that a master's name tells, or nothing."""
    found = EPISODE.search(stem(master))
    return found[1] if found else ""
