"""Units of coded frames: lengths before them, or start codes."""

from __future__ import annotations

from ample_crate.core.formats.bitstream import START, units, with_start_codes

SLICE = bytes([0x65]) + bytes(358)


def test_a_length_that_looks_like_a_start_code_is_not_taken_for_one() -> None:
    """A slice of 0x167 bytes: its length reads as a start code and a sequence parameter set."""
    boxed = len(SLICE).to_bytes(4) + SLICE
    assert boxed[:4] == b"\x00\x00\x01\x67" and START.search(boxed) is not None
    assert with_start_codes(boxed, 4) == b"\x00\x00\x01" + SLICE
    assert list(units(with_start_codes(boxed, 4), 0)) == [SLICE[:2]] == list(units(boxed, 4))


def test_several_units_and_one_that_was_cut_short() -> None:
    boxed = b"\x00\x02ab" + b"\x00\x03cde" + b"\x00\x09fg"
    assert with_start_codes(boxed, 2) == b"\x00\x00\x01ab\x00\x00\x01cde\x00\x00\x01fg"
    assert with_start_codes(b"\x00", 2) == b""


def test_what_has_start_codes_stays_as_it_is() -> None:
    plain = b"\x00\x00\x01" + SLICE
    assert with_start_codes(plain, 0) is plain
