"""The layout holds: arrows one way, documents true, everything shipped."""

import json
import os
import re
import subprocess
import sys

import pytest
from openapi_spec_validator import OpenAPIV31SpecValidator

from ample_crate.core.facts.properties import PROPERTIES
from ample_crate.core.facts.words import WORDS
from ample_crate.core.specs import specfile
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
    listed = (CHECKOUT / "docs/properties.md").read_text()
    assert [key for key in PROPERTIES if f"`{key}`" not in listed] == []
    rows = {
        row.split("`")[1]: row
        for row in listed[listed.index("## Words") :].splitlines()
        if row.startswith("| `")
    }
    assert {
        key: [w for w in words.known if f"`{w}`" not in rows.get(key, "")]
        for key, words in WORDS.items()
    } == {key: [] for key in WORDS}


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


def test_commands_without_a_database_load_neither_web_nor_database() -> None:
    code = (
        "import sys, ample_crate.cli; print([m for m in ('flask', 'sqlalchemy', "
        "'procrastinate', 'av') if m in sys.modules])"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True)
    assert done.stdout.strip() == "[]", done.stdout


def test_tests_are_spread_over_the_processes_by_their_group(request: pytest.FixtureRequest) -> None:
    """Tests of one house build on each other: the groups must hold, whatever the versions of what
    spreads them.
    """
    if "PYTEST_XDIST_WORKER" in os.environ:
        assert request.node.nodeid.endswith("@test_structure.py")
