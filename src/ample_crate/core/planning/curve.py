"""The transfer: code values of high dynamic range, logarithmic and linear ones go on as they are;
high dynamic range is mapped to standard range where that is asked for.
"""

from __future__ import annotations

from ..formats.colour import CARRIED, HDR_TRANSFERS
from ..formats.mastering import Mastering, levels_read
from ..units.light import BRIGHTEST, NOMINAL, STANDARD
from .coding import Coding
from .notes import NOTHING, Notes, caution, step
from .request import Request
from .steps import PictureFormat, ToneMap

KEY = "picture.transfer"
FIGURES = ("picture.mastering", "picture.light_level")
LIGHT = "linear"
DEPTH = 10  # bits; ITU-R BT.2100 has no fewer
WHY = {
    "log": "Its code values are densities, not a picture to be shown; converting them needs the "
    "film's own curve.",
    "linear": "Its code values are light itself; shown as they are, shadows sink into black.",
}
WIDE = "BT.2020"  # the primaries of ITU-R BT.2100
DIMMEST = 200  # cd/m2; a display that is hardly brighter than one of standard range shows no HDR


def plan_mapping(request: Request, have: PictureFormat, usual: str) -> tuple[ToneMap, ...]:
    """Say whether high dynamic range is mapped to standard range.

    Args:
        request: what is planned.
        have: the master's picture.
        usual: what is asked for where nobody says.
    """
    curve = have.transfer
    if curve not in HDR_TRANSFERS or _wanted(request, usual) in CARRIED:
        return ()
    if str(request.whole.value("picture.primaries") or have.matrix) != WIDE:
        return ()
    return (ToneMap.model_validate({"transfer": curve, "peak": _peak(request, curve)[0]}),)


def _wanted(request: Request, usual: str) -> str:
    return str(request.values.get(KEY, usual))


def _peak(request: Request, transfer: str) -> tuple[int, bool]:
    """Give the cd/m2 of the display that a master was graded on, and whether it says so."""
    display = Mastering.read(str(request.whole.value("picture.mastering") or ""))
    if transfer != "PQ" or display is None:
        return int(NOMINAL), transfer != "PQ"
    return max(DIMMEST, min(int(display.most), int(BRIGHTEST))), True


def plan_curve(request: Request, have: PictureFormat, made: PictureFormat, coding: Coding) -> Notes:
    """Say what becomes of the transfer.

    Args:
        request: what is planned.
        have, made: the master's picture, and the one that the codec gets.
        coding: how it is coded.
    """
    if coding.making.light and have.transfer != LIGHT:
        return _no_light(coding, have)
    asked = bool(request.spec.on(KEY))
    if not have.transfer and not asked:
        return NOTHING
    wanted = _wanted(request, made.matrix)
    if not have.transfer:
        return _absent(wanted) if wanted in CARRIED else NOTHING
    if not made.transfer:
        return _mapped(request, have.transfer)
    if wanted != have.transfer:
        return _between(request, have.transfer, wanted)
    if have.matrix != made.matrix:
        return _recoloured(have, made)
    return _kept(have.transfer, coding) + _figures(request, have, coding)


def _mapped(request: Request, transfer: str) -> Notes:
    peak, said = _peak(request, transfer)
    guessed = "" if said else " The master does not say how bright a display it was graded on."
    figures = f"{peak} to {STANDARD:g} cd/m2"
    named = step(
        f"{transfer} mapped to standard range",
        "ITU-R BT.2446 method A.",
        KEY,
    )
    return named + caution(
        KEY,
        f"The master is HDR ({transfer}), and is mapped to standard range.{guessed}",
        "Every brightness changes, and highlights lose their drawing: no mapping replaces a grade.",
        figures,
        "Look at the preview, or ask for a standard-range master.",
    )


def _no_light(coding: Coding, have: PictureFormat) -> Notes:
    return caution(
        KEY,
        f"{coding.codec.label} holds light itself, and the master's code values stand for "
        f"{have.transfer or have.matrix}.",
        "Called light without being it, the picture is far too bright wherever it is opened.",
        f"transfer {have.transfer or have.matrix} to {LIGHT}",
        f"Ask for a {LIGHT} master, or ask the recipient whether DPX or TIFF will do; correct the "
        f"transfer if it is {LIGHT}.",
        blocks=True,
    )


def _absent(wanted: str) -> Notes:
    return caution(
        KEY,
        f"{wanted} is asked for, and the master is none.",
        "Code values of standard range called otherwise look wrong on every screen.",
        f"transfer {wanted}",
        f"Hand in a master in {wanted}, or correct its transfer if the header is wrong.",
        blocks=True,
    )


def _between(request: Request, transfer: str, wanted: str) -> Notes:
    hdr = transfer in HDR_TRANSFERS
    instead = wanted if hdr and wanted in CARRIED else "standard-range" if hdr else "graded"
    return caution(
        KEY,
        f"The master is HDR ({transfer})." if hdr else f"The master is {_called(transfer)}.",
        _unmapped(request, wanted) if hdr else WHY[transfer],
        f"transfer {transfer}",
        f"Ask for a {instead} master, or correct the transfer if it is not {transfer}.",
        blocks=True,
    )


def _unmapped(request: Request, wanted: str) -> str:
    if wanted in CARRIED:
        return f"What makes {wanted} of it is not done here."
    primaries = request.whole.value("picture.primaries")
    return (
        f"It is mapped to standard range from the primaries of {WIDE}, and has those of "
        f"{primaries or 'another set'}."
    )


def _called(transfer: str) -> str:
    return {"log": "logarithmic"}.get(transfer, transfer)


def _recoloured(have: PictureFormat, made: PictureFormat) -> Notes:
    return caution(
        "picture.matrix",
        f"The master's {have.transfer} picture has {have.matrix} colour, and gets {made.matrix}.",
        "What turns one into the other works on light of standard range.",
        f"{have.matrix} to {made.matrix}",
        f"Ask for a master in {made.matrix}, or for a codec and matrix that keep {have.matrix}.",
        blocks=True,
    )


def _kept(transfer: str, coding: Coding) -> Notes:
    said = step(
        f"Transfer kept: {transfer}",
        "The code values go on as they are, and the file calls them so.",
        KEY,
    )
    if transfer not in HDR_TRANSFERS or coding.pixels.depth >= DEPTH:
        return said
    return said + caution(
        "picture.bit_depth",
        f"{transfer} is coded with {coding.pixels.depth} bit.",
        "Steps show in gradients: ITU-R BT.2100 has 10 or 12 bit.",
        f"{coding.pixels.depth} bit",
        "Ask the recipient whether that is meant.",
    )


def _figures(request: Request, have: PictureFormat, coding: Coding) -> Notes:
    """Tell of figures of the master that are not carried."""
    there = [key for key in FIGURES if request.whole.value(key)]
    if not there or have.transfer not in HDR_TRANSFERS or coding.making.mastering:
        return NOTHING
    return caution(
        there[0],
        "What the master says of its mastering display is left out.",
        f"{coding.codec.label} as it is made here has no place for it: a screen has to guess how "
        f"bright the picture was meant.",
        str(request.whole.value(there[0])),
        "Send the figures along in words, or ask for HEVC or AV1.",
    )


def display_of(request: Request, f: PictureFormat, coding: Coding) -> tuple[str, str]:
    """Give what an encoding says of the display that the master was graded on, and of how bright it
    gets, as their facts say it; empty where it says nothing.
    """
    if f.transfer not in HDR_TRANSFERS or not coding.making.mastering:
        return "", ""
    display, light = (str(request.whole.value(key) or "") for key in FIGURES)
    return display if Mastering.read(display) else "", light if levels_read(light) else ""
