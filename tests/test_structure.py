"""The layout holds: arrows one way, documents true, everything shipped."""

import ast
import json
import os
import re
import subprocess
import sys

import pytest
from openapi_spec_validator import OpenAPIV31SpecValidator

from ample_crate.core import formats
from ample_crate.core.facts import listing
from ample_crate.core.specs import order, specfile
from ample_crate.media import encoders, wrappers
from ample_crate.store.places import CHECKOUT, FRONT_END
from ample_crate.web.app import bare


def test_arrows_go_one_way() -> None:
    done = subprocess.run(
        [str(CHECKOUT / ".venv/bin/lint-imports"), "--no-cache"],
        cwd=CHECKOUT,
        capture_output=True,
        text=True,
    )
    assert done.returncode == 0, done.stdout


def test_the_published_documents_are_what_the_code_says() -> None:
    said = json.loads(json.dumps(bare(static=False).api_doc))
    assert json.loads((CHECKOUT / "docs/openapi.json").read_text()) == said
    assert json.loads((CHECKOUT / "docs/spec.schema.json").read_text()) == specfile.schema()
    assert json.loads((CHECKOUT / "docs/order.schema.json").read_text()) == order.FORM.schema()
    assert (CHECKOUT / "docs/properties.md").read_text() == listing.document()


def test_the_api_is_described_by_a_valid_document() -> None:
    """OpenAPI 3.1, by openapi-spec-validator."""
    document = json.loads((CHECKOUT / "docs/openapi.json").read_text())
    assert document["openapi"].startswith("3.1")
    assert [str(error)[:300] for error in OpenAPIV31SpecValidator(document).iter_errors()] == []


def test_the_page_reaches_for_nothing_outside() -> None:
    for file in [*FRONT_END.glob("*.html"), *FRONT_END.glob("assets/*.css")]:
        assert not re.search(r"""(src|href|url)\s*[=(]\s*["']?(https?:)?//""", file.read_text()), (
            file
        )


def test_nothing_but_the_registry_decides_by_the_name_of_a_codec_or_wrapper() -> None:
    source = CHECKOUT / "src/ample_crate"
    registry = [source / p for p in ("core/formats", "media/encoders", "media/wrappers.py")]
    beside = [source / "demo"]  # its masters are made as other houses make theirs
    names = {*formats.PICTURE, *formats.SOUND, *formats.WRAPPERS}
    found = [
        f"{file.relative_to(CHECKOUT)}:{node.lineno}: {node.value}"
        for file in sorted(source.rglob("*.py"))
        if not any(file.is_relative_to(place) for place in registry + beside)
        for node in ast.walk(ast.parse(file.read_text()))
        if isinstance(node, ast.Constant) and node.value in names
    ]
    assert found == []


def test_every_codec_that_is_made_has_an_encoder_and_the_other_way_round() -> None:
    assert set(formats.made_picture()) == set(encoders.PICTURE)
    assert set(formats.made_sound()) == set(encoders.SOUND)
    for codec in formats.made_picture().values():
        assert codec.made is not None
        read = {formats.WRAPPERS[w].read_as for w in codec.made.wrappers}
        assert read <= (formats.carried_in(codec) or set())
        assert codec.layouts(codec.made.usual), codec.key
        files = {w for w in codec.made.wrappers if not formats.WRAPPERS[w].parts}
        written = {w for w in files if wrappers.ROWS[w].muxer}
        assert written == files, codec.key


def test_rows_of_the_registry_agree_with_each_other() -> None:
    for codec in [*formats.PICTURE.values(), *formats.SOUND.values()]:
        assert (codec.wrappers or set()) <= set(formats.WRAPPERS), codec.key
    for wrapper in formats.WRAPPERS.values():
        assert wrapper.carries <= {*formats.PICTURE, *formats.SOUND}, wrapper.key
        assert not wrapper.sound or wrapper.usual_sound in formats.SOUND, wrapper.key
    assert set(wrappers.ROWS) <= set(formats.WRAPPERS)
    written = {key for key, row in wrappers.ROWS.items() if row.muxer}
    assert written == {w.key for w in formats.WRAPPERS.values() if w.made and not w.parts}
    for wrapper in formats.WRAPPERS.values():
        assert set(wrapper.parts.values()) <= written, wrapper.key


def loads(modules: str, *unwanted: str) -> bool:
    """Say whether bringing in some modules brings in any of others."""
    code = f"import sys, {modules}; print(any(m in sys.modules for m in {unwanted}))"
    command = [sys.executable, "-c", code]
    return subprocess.run(command, capture_output=True, text=True, check=True).stdout == "True\n"


def test_commands_without_a_database_load_neither_web_nor_database() -> None:
    assert not loads("ample_crate.cli", "flask", "sqlalchemy", "procrastinate", "av")
    assert loads("ample_crate.web.app", "flask", "sqlalchemy")


def test_to_read_and_measure_a_file_no_plan_or_document_is_loaded() -> None:
    """What a child brings in it does anew for each file: it takes as long as a short film."""
    core = "ample_crate.core"
    unwanted = "pydantic", f"{core}.planning", f"{core}.specs", "ample_crate.media.encoders"
    looking = "ample_crate.media.headers, ample_crate.media.measuring.whole"
    assert not loads(looking, *unwanted)
    assert loads("ample_crate.media.render", *unwanted)


def test_tests_are_spread_over_the_processes_by_their_group(request: pytest.FixtureRequest) -> None:
    """Tests of one installation build on each other: the groups must hold, whatever the versions
    of what spreads them.
    """
    if "PYTEST_XDIST_WORKER" in os.environ:
        assert request.node.nodeid.endswith("@test_structure.py")


LONGEST_FILE, LONGEST_TEST = 400, 50  # lines


def test_files_and_tests_stay_short() -> None:
    code = [p for r in ("src", "tests", "benchmarks") for p in (CHECKOUT / r).rglob("*.py")]
    page = [p for p in (CHECKOUT / "frontend" / "src").rglob("*.ts*") if ".d." not in p.name]
    lines = {str(p): p.read_text().count("\n") for p in [*code, *page]}
    assert {p: n for p, n in lines.items() if n > LONGEST_FILE} == {}
    tests = [
        (node.name, (node.end_lineno or 0) - node.lineno + 1)
        for path in code
        for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, ast.FunctionDef) and node.name.startswith("test_")
    ]
    assert [one for one in tests if one[1] > LONGEST_TEST] == [] and len(tests) > 100
