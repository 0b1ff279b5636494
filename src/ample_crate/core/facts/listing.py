"""The list of properties as a document, docs/properties.md, made from their rows."""

from __future__ import annotations

from .properties import PROPERTIES, Property

HEAD = """# Properties

Every property that a fact can have and a spec can ask for. Made by `./ample properties` from
`core/facts/properties/`.

Rules: `is`, `one_of`, `at_least`, `at_most`, `between`, `matches` (a regular expression as RE2
knows it, with `words` for readers), `present`, `same_as` (`master` or `crate`), with `tolerance`
where values are compared. Of frame sizes, "at most" means that neither side is larger. A sound
property with a track, such as `sound.layout@2`, is asked of that track alone. What begins with
`delivery.` is asked of the crate as a whole. Units: bytes in B, kB, MB, GB (10^3 steps) or KiB,
MiB, GiB (2^10 steps); bit rates in b/s, kb/s, Mb/s; sample rates in Hz, kHz; times in s, ms, min,
h; rates and aspects as fractions (`30000/1001`, `16:9`).

Proof: *declared* where the stream's own header is what the recipient reads, *measured* where only
decoding tells the truth. Depth: what is found by measuring *everything* costs more, and is measured
of masters, and of files where a spec asks for it. *Chosen*: the planner settles it, and it can be
chosen where the spec leaves it open.

| key | name | kind | proof | depth | chosen | meaning |
| --- | --- | --- | --- | --- | --- | --- |
"""
WORDS = """
## Words

What a spec may write for properties of words, as files are read. Other writings of the trade
(`MP4`, `Rec. 709`, `CBR`, `top field first`, `MP@ML`) are brought to these. Where the list is
closed nothing else can be read of a file, and another word is refused; elsewhere it is doubted.

| key | words | |
| --- | --- | --- |
"""


def _row(prop: Property) -> str:
    depth = "everything" if prop.depth == "everything" else ""
    cells = [
        f"`{prop.key}`",
        prop.label,
        prop.kind.name,
        prop.proof,
        depth,
        "yes" if prop.chosen else "",
        prop.meaning,
    ]
    return f"| {' | '.join(cells)} |"


def _words(prop: Property) -> str:
    words = prop.words
    assert words is not None
    known = ", ".join(f"`{word}`" for word in words.known)
    note = "closed" if words.closed else words.form[1] if words.form else ""
    return f"| `{prop.key}` | {known} | {note} |"


def document() -> str:
    """Give the list of properties and of their words as Markdown."""
    rows = [_row(prop) for prop in PROPERTIES.values()]
    words = [_words(prop) for prop in PROPERTIES.values() if prop.words is not None]
    return HEAD + "\n".join(rows) + "\n" + WORDS + "\n".join(words) + "\n"
