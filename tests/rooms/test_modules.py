"""Scripts as the pages name them and as they are shipped."""

import re
from pathlib import Path

import pytest
from django.core.management import call_command
from django.template import Context, Template

from rooms.common.web.modules import imported_by

SCRIPTS = (*Path("mindful_tally/static/js").glob("*.js"), *Path("rooms").glob("*/static/**/*.js"))


def test_a_module_names_all_it_needs_each_before_what_needs_it():
    found = imported_by("bench/js/block.js")
    assert len(found) == len(set(found))
    for name in found:
        assert set(imported_by(name)) <= set(found[: found.index(name)])
    with pytest.raises(FileNotFoundError, match=r"js/none\.js"):
        imported_by("js/none.js")


def test_no_script_of_ours_leaves_a_global_or_waits_for_the_page():
    assert len(SCRIPTS) > 30
    for path in SCRIPTS:
        text = path.read_text(encoding="utf-8")
        assert not re.search(r"^\s*window\.\w+ = |DOMContentLoaded|^\(\(\) =>", text, re.M), (
            path.name
        )


def test_the_page_names_imports_with_its_nonce(rf):
    request = rf.get("/")
    request.csp_nonce = "n0nce"
    page = Template("{% load tally %}{% module 'bench/js/scale-page.js' %}").render(
        Context({"request": request})
    )
    assert page.count('nonce="n0nce"') == 3
    assert page.index("scale-check.js") < page.index('type="module"')


def test_shipped_modules_import_by_the_names_they_are_shipped_under(settings, tmp_path):
    settings.STATIC_ROOT = tmp_path
    settings.STORAGES = {
        **settings.STORAGES,
        "staticfiles": {"BACKEND": "mindful_tally.storage.ModuleStorage"},
    }
    call_command("collectstatic", "--noinput", "--verbosity", "0")
    named = [
        path.parent / name
        for path in tmp_path.glob("**/js/*.????????????.js")
        for name in re.findall(r'^import\b[^"]*"(\.[^"]+)"', path.read_text(), re.MULTILINE)
    ]
    assert len(named) > 20
    assert {path.resolve().parent.parent.name for path in named} >= {"bench", tmp_path.name}
    assert all(re.search(r"\.[0-9a-f]{12}\.js$", path.name) and path.exists() for path in named)
