"""Items of a crate as a sheet: read by line, with mistakes named, and written so that it is read
again.
"""

from __future__ import annotations

import csv
import io
from typing import Any

import pytest

from ample_crate.core.errors import BadValue
from ample_crate.core.planning import sheets
from ample_crate.core.specs.spec import Spec

HEAD = {"id": "sheets", "version": 1, "recipient": "pinfold", "title": "t"}
ROWS = [
    {"property": "picture.codec", "rule": {"is": "h264"}},
    {"property": "picture.bit_rate", "rule": {"between": ["1 Mb/s", "8 Mb/s"]}},
]
DELIVERY = {
    "name": "{production}_e{episode}_{cut}",
    "characters": "A-Z a-z 0-9 _",
    "fields": {"cut": {"matches": "[ab]"}},
}


def spec(**more: Any) -> Spec:
    return Spec.model_validate({**HEAD, "requirements": ROWS, "delivery": DELIVERY} | more)


def read(text: str, **more: Any) -> sheets.Sheet:
    return sheets.read(text, spec(**more))


def told(text: str) -> list[tuple[int, str, str]]:
    return [(one.line, one.column, one.what) for one in read(text).mistakes]


def test_lines_have_the_numbers_of_the_text_and_choices_by_key() -> None:
    text = (
        "master,range,name.episode,picture.bit_rate,framing\r\n"
        "one.mov,,3,4 Mb/s,\r\n"
        "\r\n"
        '"two, three.mov","titles\nand all",,,crop\r\n'
        "four.mov\r\n"
    )
    sheet = read(text)
    assert sheet.mistakes == ()
    one, two, four = sheet.lines
    chosen = {"name.episode": "3", "picture.bit_rate": "4 Mb/s", "framing": ""}
    assert (one.number, one.master, one.choices) == (2, "one.mov", chosen)
    assert (two.number, two.master, two.range) == (4, "two, three.mov", "titles\nand all")
    # A line that follows one of several lines is counted as an editor counts it.
    assert (four.number, four.choices["framing"]) == (6, "")


@pytest.mark.parametrize(
    "text",
    [
        "master;name.episode\none.mov;4\n",
        "master\tname.episode\none.mov\t4\n",
        "\ufeffMaster,Episode\none.mov,4\n",
        "sep=;\r\nmaster;episode\r\none.mov;4\r\n",
    ],
)
def test_what_spreadsheets_write_is_read(text: str) -> None:
    (line,) = read(text).lines
    assert (line.master, line.choices) == ("one.mov", {"name.episode": "4"})
    assert line.number == text.count("\n")


def test_a_column_nobody_knows_is_a_mistake_with_the_nearest() -> None:
    (mistake,) = read("master,epsiode\none.mov,4\n").mistakes
    assert (mistake.line, mistake.column) == (1, "epsiode")
    assert mistake.way_out == "Did you mean 'episode'?"
    assert told("master,Framing,framing\none.mov,crop,pad\n") == [
        (1, "framing", "There are two columns 'framing'.")
    ]
    # The codec is fixed, so that nothing is chosen there.
    assert told("master,picture.codec\none.mov,hevc\n")[0][1] == "picture.codec"


def test_a_line_with_too_many_cells_or_no_master_is_left_out_and_named() -> None:
    text = "master,framing\none.mov,crop,pad\n,crop\nthree.mov,crop\n"
    assert told(text) == [
        (2, "", "The line has 3 cells, and the head 2."),
        (3, "master", "The line names no master."),
    ]
    assert [line.number for line in read(text).lines] == [4]


@pytest.mark.parametrize(
    ("text", "what"),
    [
        ("", "The sheet is empty."),
        ("framing\ncrop\n", "none is 'master'"),
        ("master\n", "a head and no lines"),
        ('master\n"one', "Line 2 of the sheet cannot be read"),
        ("master\n" + "one.mov\n" * (sheets.MOST + 1), "more than 500 lines"),
    ],
)
def test_what_is_no_sheet_is_refused(text: str, what: str) -> None:
    with pytest.raises(BadValue, match=what):
        read(text)


def test_what_is_written_is_read_again_and_no_formula() -> None:
    rows: list[dict[str, object]] = [
        {"master": "=cmd.mov", "name.episode": "-3", "bytes": 12, "verdict": "meets"},
        {"master": "'quoted'.mov", "name.episode": "+x", "framing": "crop"},
        {"master": "'=both.mov"},
    ]
    columns = ["master", "name.episode", "framing", *sheets.TOLD]
    text = sheets.write(columns, rows)
    cells = list(csv.DictReader(io.StringIO(text, newline="")))
    assert [c["master"][0] for c in cells] == ["'", "'", "'"]
    assert (cells[0]["name.episode"], cells[0]["bytes"]) == ("-3", "12")
    assert cells[1]["name.episode"] == "'+x"
    sheet = read(text)
    assert sheet.mistakes == ()
    assert [line.master for line in sheet.lines] == [row["master"] for row in rows]
    assert [line.choices["name.episode"] for line in sheet.lines] == ["-3", "+x", ""]
    assert set(sheet.lines[0].choices) == {"name.episode", "framing"}


def test_the_other_sound_is_its_own_column() -> None:
    sheet = read("master,sound of\none.mov,mix.wav\n")
    assert sheet.with_sound and sheet.lines[0].sound == "mix.wav"
    # "sound" itself chooses whether it is copied.
    assert read("master,sound\none.mov,copied\n").lines[0].choices == {"sound": "copied"}


def test_fields_of_the_name_alternatives_and_sets_have_columns() -> None:
    either = [
        {
            "name": "standard",
            "any": [
                {"name": n, "rules": {"motion.rate": {"is": rate}}}
                for n, rate in (("PAL", "25"), ("film", "24"))
            ],
        }
    ]
    known = sheets.headings(spec(either=either))
    assert known["cut"] == known["name.cut"] == "name.cut"
    assert known["either.standard"] == "either.standard"
    assert "house" not in known and "name.date" not in known
