"""Checks on the file: its index, its name, what goes beside it."""

from __future__ import annotations

import re
from collections.abc import Iterator

from ... import formats
from .. import naming
from .view import Contradiction, View

# Fields that tell two items of one crate apart; the recipient, date and revision are the same for
# all.
TELLING = {"master", "episode"}


def _index(view: View) -> Iterator[Contradiction]:
    wrappers = view.values("file.wrapper") or []
    if (
        view.only("file.index_in_front") is True
        and wrappers
        and not any(formats.WRAPPERS[w].index for w in wrappers if w in formats.WRAPPERS)
    ):
        yield view.against(
            "index",
            f"{formats.label(wrappers[0])} has no index to put in front.",
            "Only MP4 and MOV gather theirs in one place.",
            ("file.index_in_front", "file.wrapper"),
            "Leave it out.",
            {"file.index_in_front": None},
        )


def _name(view: View) -> Iterator[Contradiction]:
    delivery = view.spec.delivery
    pattern = delivery.pattern()
    telling = TELLING | set(pattern.free)
    if not telling & set(pattern.fields) and view.high("delivery.items") != 1:
        loose = sorted(telling & set(pattern.optional))
        why = (
            f"{' and '.join(loose)} may be left out, and then"
            if loose
            else "It has no field that differs from item to item:"
        )
        yield view.against(
            "name clash",
            f"The name pattern {delivery.name} lets two items have the same name.",
            f"{why} nothing tells two files of one crate apart.",
            (),
            "Add {master} or a field that must be given, or allow one file a crate.",
            {"delivery.items": {"is": 1}},
        ).doubtful(bool(loose))
    plain = sum(len(p.text) for p in pattern.parts if not p.field and not p.bracket)
    if plain + len(pattern.fields) + 4 > delivery.longest:
        yield view.against(
            "name length",
            f"The name pattern {delivery.name} cannot be kept within {delivery.longest} "
            f"characters.",
            f"Its fixed text alone has {plain}.",
            (),
            "Allow a longer name, or shorten the pattern.",
        )
    for key, allowed in pattern.free.items():
        if key not in {*pattern.fields, *pattern.optional}:
            yield view.against(
                "name field",
                f"The free field '{key}' is given a rule and is not in the pattern.",
                f"Nothing of {allowed} can ever stand in the name.",
                (),
                f"Put {{{key}}} into the pattern, or take the field out.",
            ).doubtful()


def _number(view: View) -> Iterator[Contradiction]:
    """Hold a name that is asked against the numbers that images must have."""
    delivery = view.spec.delivery
    rows = [formats.WRAPPERS[w] for w in view.values("file.wrapper") or [] if w in formats.WRAPPERS]
    numbered = bool(rows) and all(row.numbered for row in rows)
    if not numbered or delivery.asked is None or naming.FRAME in delivery.pattern().fields:
        return
    yield view.against(
        "name number",
        f"The name pattern {delivery.name} has no number for images.",
        "The images of a sequence differ by their number alone.",
        ("file.wrapper",),
        f"Let it end with a mark and the number: {delivery.name}_{{{naming.FRAME}}}.",
    )


LITERAL_ENDING = re.compile(r"\\?\.([A-Za-z0-9]{1,5})\$?$")


def _ending(view: View) -> Iterator[Contradiction]:
    """Hold the ending that a rule on the name spells out against the wrapper's."""
    rows = [formats.WRAPPERS.get(w) for w in view.values("file.wrapper") or []]
    endings = {row.extension for row in rows if row is not None and row.extension}
    for one in view.on("file.name"):
        found = LITERAL_ENDING.search(str(one.rule.matches or one.rule.is_ or ""))
        if endings and found and f".{found[1].lower()}" not in endings:
            yield view.against(
                "name ending",
                f"The name is asked to end in .{found[1]}, the wrapper in "
                f"{' or '.join(sorted(endings))}.",
                "A file that ends like another wrapper is opened by the wrong program, or refused.",
                ("file.name", "file.wrapper"),
                "Let the name end as its wrapper does.",
            ).doubtful()


def _beside(view: View) -> Iterator[Contradiction]:
    wrappers = view.values("file.wrapper") or []
    snippet = any(s.kind == "html snippet" for s in view.spec.delivery.sidecars)
    played = sorted(w.key for w in formats.WRAPPERS.values() if w.browsers)
    if snippet and wrappers and not set(wrappers) & set(played):
        names = [formats.label(w) for w in played]
        yield view.against(
            "snippet",
            f"An HTML snippet is wanted for {formats.label(wrappers[0])}.",
            f"Browsers play {' and '.join(names)} only.",
            ("file.wrapper",),
            f"Leave the snippet out, or ask for {' or '.join(names)}.",
            {"file.wrapper": {"one_of": played}},
        ).doubtful()


CHECKS = (_index, _name, _number, _ending, _beside)
