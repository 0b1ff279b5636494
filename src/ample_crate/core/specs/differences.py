"""Two specs, or two versions of one, held against each other."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from ..facts.properties import lookup
from .requirement import Requirement
from .rules import Ask
from .spec import EITHER, Spec
from .wording import asked

Change = Literal["same", "changed", "added", "taken out"]
NOT_BINDING = "clauses and notes"


@dataclass(frozen=True)
class Difference:
    """One row of a comparison; a side is empty where it says nothing."""

    group: str
    label: str
    left: str
    right: str
    change: Change

    def said(self) -> str:
        """Say the change in one line."""
        match self.change:
            case "added":
                return f"New: {self.label} {self.right}."
            case "taken out":
                return f"No longer asked: {self.label} {self.left}."
            case "changed":
                return f"{self.label[0].upper()}{self.label[1:]}: {self.left} becomes {self.right}."
            case _:
                return f"{self.label}: {self.left}."


def differences(left: Spec, right: Spec) -> list[Difference]:
    """Compare requirement by requirement, then coding, name and house choices, then clauses and
    notes.

    Rows stand in the order of the left spec, what only the right one asks after them. Of clauses
    and notes only those that differ are given, in the group NOT_BINDING: they change nothing that
    is made or judged.
    """
    made = _rows(_asked(left), _asked(right)) + _rows(_about(left), _about(right))
    return made + [d for d in _rows(_said_beside(left), _said_beside(right)) if d.change != "same"]


def _rows(
    mine: Mapping[tuple[str, str], str], theirs: Mapping[tuple[str, str], str]
) -> list[Difference]:
    return [
        _row(group, label, mine.get((group, label), ""), theirs.get((group, label), ""))
        for group, label in dict.fromkeys([*mine, *theirs])
    ]


def _row(group: str, label: str, left: str, right: str) -> Difference:
    change: Change = (
        "same"
        if left == right
        else "added"
        if not left
        else "taken out"
        if not right
        else "changed"
    )
    return Difference(group, label, left, right, change)


def _asked(spec: Spec) -> dict[tuple[str, str], str]:
    said: dict[tuple[str, str], list[str]] = {}
    for one in spec.requirements:
        said.setdefault((lookup(one.property).group, _label(one)), []).append(_cell(one))
    for either in spec.either:
        for alternative in either.any:
            parts = [f"{_label(r)} {asked(r)}" for r in either.requirements(alternative)]
            said[("picture", f"{either.name}: {alternative.name}")] = [
                "; ".join(parts) + (" (should)" if either.severity == "should" else "")
            ]
    return {key: " and ".join(texts) for key, texts in said.items()}


def _label(one: Requirement) -> str:
    prop = lookup(one.property)
    track = f", track {one.property.split('@')[1]}" if "@" in one.property else ""
    word = (
        prop.label
        if prop.group != "sound" or prop.label.startswith("sound")
        else f"sound {prop.label}"
    )
    return word + track


def _cell(one: Requirement) -> str:
    where = (
        f", where the {lookup(one.when.property).label} is "
        f"{asked(Ask(property=one.when.property, rule=one.when.rule))}"
        if one.when
        else ""
    )
    pattern = f" ({one.rule.matches})" if one.rule.matches and one.rule.words else ""
    return f"{asked(one)}{pattern}{' (should)' if one.severity == 'should' else ''}{where}"


def _about(spec: Spec) -> dict[tuple[str, str], str]:
    coding, delivery = spec.coding, spec.delivery
    made: dict[tuple[str, str], str] = {
        ("document", "title"): spec.title,
        ("document", "status"): spec.status,
        ("document", "valid from"): spec.valid_from or "",
        ("document", "source"): spec.source,
        ("coding", "passes"): str(coding.passes),
        ("coding", "rate buffer"): f"{coding.buffer_bits} bits" if coding.buffer_bits else "",
        ("coding", "key frame every"): coding.key_frame_every,
        ("coding", "shape spread over"): f"{coding.active_width} samples"
        if coding.active_width
        else "",
        ("coding", "framing"): coding.framing,
        ("coding", "without sound"): coding.without_sound,
        ("coding", "background"): coding.background,
        ("coding", "loudness"): coding.loudness,
        ("delivery", "name"): delivery.name + (f" ({delivery.asked})" if delivery.asked else ""),
        (
            "delivery",
            "characters",
        ): f"{delivery.characters}, case {delivery.case}, at most {delivery.longest}",
        ("delivery", "beside the files"): ", ".join(s.said() for s in delivery.sidecars),
        ("delivery", "carrier"): f"{delivery.carrier} {delivery.address}".strip(),
        ("delivery", "played"): spec.playback.said() if spec.playback else "",
    }
    made |= {
        ("delivery", f"field {key}"): f"fits {field.matches}"
        for key, field in delivery.fields.items()
    }
    for name, choices in [
        ("usual", spec.house),
        *((name, s.choices) for name, s in spec.house_sets.items()),
    ]:
        for key, choice in choices.items():
            prop = lookup(key)
            made["house", f"{name}: {prop.label}"] = prop.kind.show(prop.read(choice.value))
    for key, value in spec.begins_with.items():
        made["house", f"crates begin with: {key.removeprefix(EITHER)}"] = value
    return {key: text for key, text in made.items() if text}


def _said_beside(spec: Spec) -> dict[tuple[str, str], str]:
    """Give what is written beside the rules: clauses, and notes of every kind."""
    said: dict[str, list[str]] = {"summary": [spec.summary]}
    for one in spec.requirements:
        said.setdefault(f"clause of {_label(one)}", []).append(one.source)
        said.setdefault(f"note on {_label(one)}", []).append(one.note)
    for either in spec.either:
        said[f"clause of {either.name}"], said[f"note on {either.name}"] = (
            [either.source],
            [either.note],
        )
        for alternative in either.any:
            said[f"note on {either.name}: {alternative.name}"] = [alternative.note]
    for name, choices in [
        ("usual", spec.house),
        *((name, s.choices) for name, s in spec.house_sets.items()),
    ]:
        for key, choice in choices.items():
            said[f"note on {name} {lookup(key).label}"] = [choice.note]
    said |= {f"note on house set {name}": [s.note] for name, s in spec.house_sets.items()}
    said["clause of the name"] = [spec.delivery.source]
    if spec.playback is not None:
        said["clause of playback"] = [spec.playback.source]
        said["note on playback"] = [spec.playback.note]
    said |= {f"note on field {key}": [field.note] for key, field in spec.delivery.fields.items()}
    said |= {f"note on {s.kind} ({s.form})": [s.note] for s in spec.delivery.sidecars}
    return {
        (NOT_BINDING, label): "; ".join(t for t in texts if t)
        for label, texts in said.items()
        if any(texts)
    }
