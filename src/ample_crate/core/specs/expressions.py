"""A regular expression of a name's field in plain words."""

from __future__ import annotations

import re

# What the pieces of a simple expression mean, and how often they may stand.
CLASSES = {
    "[0-9]": "figure",
    r"\d": "figure",
    "[A-Z]": "capital letter",
    "[a-z]": "small letter",
    "[A-Za-z]": "letter",
    "[a-zA-Z]": "letter",
    "[A-Za-z0-9]": "letter or figure",
    "[a-z0-9]": "small letter or figure",
    "[A-Z0-9]": "capital letter or figure",
    "[A-Za-z0-9-]": "letter, figure or hyphen",
    "[a-z0-9-]": "small letter, figure or hyphen",
}
PIECE = re.compile(r"(\[[^\]]+\]|\\d|\\.|[A-Za-z0-9_ .-])(\{\d+(?:,\d*)?\}|[+*?])?")
NUMBERS = (
    "no",
    "one",
    "two",
    "three",
    "four",
    "five",
    "six",
    "seven",
    "eight",
    "nine",
    "ten",
    "eleven",
    "twelve",
)


def in_words(expression: str) -> str:
    """Say a simple regular expression in words, "one to three figures"; one that is not simple is
    given as it is.
    """
    said, at, plain = [], 0, ""
    while at < len(expression):
        found = PIECE.match(expression, at)
        if found is None:
            return f"what fits {expression}"
        at = found.end()
        piece, times = found[1], found[2]
        if piece in CLASSES:
            said += [f"'{plain}'"] * bool(plain) + [_many(CLASSES[piece], times)]
            plain = ""
        elif times is None and not piece.startswith("["):
            plain += piece.removeprefix("\\")
        else:
            return f"what fits {expression}"
    said += [f"'{plain}'"] * bool(plain)
    return ", then ".join(said)


def _many(what: str, times: str | None) -> str:
    """Say how often something stands: "two figures", "one to three letters"."""
    several = " or ".join(
        f"{part}s" if not part.endswith("y") else part for part in what.split(" or ")
    )
    several = several.replace("letter,", "letters,")
    if times in {"+", "*"}:
        return several if times == "+" else f"{several}, or nothing"
    low, comma, high = (times or "{1}").strip("{}?").partition(",")
    if times == "?":
        low, comma, high = "0", ",", "1"
    if comma and not high:
        return f"at least {_number(low)} {several}"
    if comma:
        return f"{_number(low)} to {_number(high)} {several}"
    return f"{_number(low)} {what if low == '1' else several}"


def _number(text: str) -> str:
    return NUMBERS[int(text)] if int(text) < len(NUMBERS) else text


def with_article(word: str) -> str:
    """Put a or an before a word."""
    return f"{'an' if word[0] in 'aeiou' else 'a'} {word}"
