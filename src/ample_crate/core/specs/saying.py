"""What a spec says beside its rules, in sentences."""

from __future__ import annotations

from .rules import test
from .spec import EITHER, Spec


def coding(spec: Spec) -> list[str]:
    """Say how the house makes it, a sentence for each habit."""
    habit = spec.coding
    said = [
        f"{'Two passes' if habit.passes == 2 else 'One pass'}, a key frame at least every "
        f"{habit.key_frame_every}."
    ]
    if habit.buffer_bits:
        said.append(f"A rate buffer of {habit.buffer_bits:,} bits.".replace(",", " "))
    if habit.active_width:
        said.append(f"The picture's shape is spread over {habit.active_width} samples of a line.")
    said.append(
        {
            "pad": "Where the shapes differ, bars are added.",
            "crop": "Where the shapes differ, the edges are cut.",
            "stretch": "Where the shapes differ, the picture is stretched.",
        }[habit.framing]
    )
    if spec.allows_silence and _may_have_a_track(spec):
        said.append(
            f"A master without sound gets "
            f"{'a silent track' if habit.without_sound == 'silent track' else 'no track'}."
        )
    if habit.background != "black":
        said.append(f"Transparency that is not carried: {habit.background}.")
    if habit.loudness == "untouched":
        said.append("Loudness is measured only: the mix goes out untouched.")
    if spec.begins_with:
        said.append(f"New crates begin with {', '.join(begins_with(spec))}.")
    return said


def _may_have_a_track(spec: Spec) -> bool:
    return all(test(r)(1) for r in spec.on("sound.tracks") if r.when is None)


def begins_with(spec: Spec) -> list[str]:
    """Say what new crates choose at first, in words."""
    return [
        f"{key.removeprefix(EITHER).replace('_', '-')} {value}"
        for key, value in spec.begins_with.items()
    ]


def delivery(spec: Spec) -> list[str]:
    """Say how the files are played, named, accompanied and carried."""
    wanted = spec.delivery
    said = []
    if spec.playback is not None:
        clause = f" [{spec.playback.source}]" if spec.playback.source else ""
        said.append(f"Played {spec.playback.said()}{clause}. {spec.playback.note}".strip())
    if wanted.asked is None:
        said.append(f"The house names the files {wanted.name}; the recipient does not mind.")
    for key, field in wanted.fields.items():
        said.append(f"{key}: fits {field.matches}. {field.note}".strip())
    for one in wanted.sidecars:
        said.append(f"Beside the files: {one.said()}. {one.note}".strip())
    if wanted.carrier or wanted.address:
        to = f" to {wanted.address}" if wanted.address else ""
        said.append(f"Carried by {wanted.carrier or 'the usual way'}{to}.")
    return said
