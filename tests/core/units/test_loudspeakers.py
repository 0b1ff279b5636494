"""Sound by loudspeaker."""

from fractions import Fraction

import pytest

from ample_crate.core.errors import Impossible
from ample_crate.core.units.loudspeakers import LAYOUTS, LESS_3_DB, mix

SIDE, BACK, STEREO, MONO = LAYOUTS["5.1(side)"], LAYOUTS["5.1"], LAYOUTS["stereo"], LAYOUTS["mono"]


@pytest.mark.parametrize("have", [SIDE, BACK])
def test_five_one_is_folded_with_its_surrounds_wherever_they_stand(have: tuple[str, ...]) -> None:
    """ITU-R BS.775-4, Annex 4, Table 2, 3/2 to 2/0: 1, 0.7071 of the centre, 0.7071 of the
    surround; no LFE.
    """
    left, right = mix(have, STEREO).gains
    assert [round(float(g), 4) for g in left] == [1, 0, 0.7071, 0, 0.7071, 0]
    assert [round(float(g), 4) for g in right] == [0, 1, 0.7071, 0, 0, 0.7071]


def test_four_channels_with_one_surround() -> None:
    """The same table, 3/1 to 2/0: half of the one surround to either side (from memory)."""
    assert mix(LAYOUTS["4.0"], STEREO).gains[0] == (1, 0, LESS_3_DB, Fraction(1, 2))


def test_surrounds_of_one_pair_stand_for_each_other() -> None:
    made = mix(SIDE, BACK)
    assert made.kind == "keep" and all(
        row[n] == 1 and sum(row) == 1 for n, row in enumerate(made.gains)
    )


def test_channels_in_another_order_find_their_place() -> None:
    film = ("FL", "FC", "FR", "SL", "SR", "LFE")
    made = mix(film, BACK)
    order = [row.index(Fraction(1)) for row in made.gains]
    assert [film[n] for n in order] == ["FL", "FR", "FC", "LFE", "SL", "SR"]


def test_two_pairs_of_surrounds_become_one() -> None:
    made = mix(LAYOUTS["7.1"], BACK)
    assert made.kind == "fold"
    # 7.1 in the library's order: FL FR FC LFE BL BR SL SR.
    assert made.gains[4] == (0, 0, 0, 0, LESS_3_DB, 0, LESS_3_DB, 0)
    left = mix(LAYOUTS["7.1"], STEREO).gains[0]
    assert left == (1, 0, LESS_3_DB, 0, LESS_3_DB, 0, LESS_3_DB, 0)


def test_nothing_of_a_programme_is_left_out_of_a_fold_but_the_lfe() -> None:
    for name, have in LAYOUTS.items():
        for want in (STEREO, MONO):
            gains = mix(have, want).gains
            lost = {one for n, one in enumerate(have) if not any(row[n] for row in gains)}
            assert lost <= {"LFE"}, f"{name} to {want}"


def test_one_channel_is_mono_whichever_loudspeaker_it_is_tied_to() -> None:
    assert mix(("FL",), MONO).gains == ((1,),)
    assert mix(("FR",), STEREO).gains == ((1,), (1,))
    assert mix(STEREO, MONO).gains == ((Fraction(1, 2), Fraction(1, 2)),)
    assert mix(("DL", "DR"), STEREO).kind == "keep"


@pytest.mark.parametrize("have", [MONO, STEREO, LAYOUTS["quad"]])
def test_what_was_never_there_is_not_made_up(have: tuple[str, ...]) -> None:
    with pytest.raises(Impossible, match="cannot be made from"):
        mix(have, BACK)


def test_a_loudspeaker_without_a_rule_is_said() -> None:
    with pytest.raises(Impossible, match="TFL"):
        mix(("FL", "FR", "TFL"), STEREO)
