"""The house rules that a machine can hold: vendored files, locks, sizes, pictures, settings."""

import hashlib
import json
import os
import re
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
VENDOR = ROOT / "mindful_tally" / "static" / "vendor"
SHIPPED = json.loads((VENDOR / "vendor.json").read_text())


def tracked(*patterns):
    found = subprocess.run(
        ["git", "ls-files", "-co", "--exclude-standard", *patterns],
        cwd=ROOT,
        capture_output=True,
        text=True,
        check=True,
    )
    return [ROOT / name for name in found.stdout.splitlines() if (ROOT / name).exists()]


@pytest.mark.parametrize("entry", SHIPPED, ids=lambda entry: entry["file"])
def test_vendored_files_are_what_they_say_and_carry_their_licence(entry):
    path = VENDOR / entry["file"]
    assert hashlib.sha256(path.read_bytes()).hexdigest() == entry["sha256"]
    assert entry["licence"] in ("MIT", "0BSD", "OFL-1.1")
    assert len((path.parent / "LICENSE").read_text()) > 300


def test_nothing_else_is_vendored():
    listed = {entry["file"] for entry in SHIPPED}
    there = {str(p.relative_to(VENDOR)) for p in VENDOR.rglob("*") if p.is_file()}
    assert there - listed == {"vendor.json"} | {f"{f.split('/')[0]}/LICENSE" for f in listed}


@pytest.mark.parametrize("name", ["base", "dev"])
def test_requirements_are_pinned_by_hash_and_name_no_host(name):
    text = (ROOT / "requirements" / f"{name}.txt").read_text()
    pins = re.findall(r"^[a-z0-9._-]+==\S+ \\$", text, re.M | re.I)
    assert pins
    assert text.count("--hash=sha256:") >= len(pins)
    assert "://" not in text
    assert "--" not in text.replace("--hash=", "")


def test_small_scripts_stay_small():
    for path in tracked("mindful_tally/static/js/*.js", "rooms/*/static/**/*.js"):
        assert len(path.read_text().splitlines()) <= 150, path


def test_templates_are_wide_only_where_a_tag_cannot_be_broken():
    """About 120: a template tag stands on one line, whatever it says."""
    lines = [
        (path, line)
        for path in tracked("rooms/**/*.html", "mindful_tally/templates/**/*.html")
        for line in path.read_text().splitlines()
    ]
    wide = [(path, line) for path, line in lines if len(line) > 120]
    assert len(wide) < len(lines) / 40
    assert not [
        (path, line)
        for path, line in wide
        if "{%" not in line and "{{" not in line and len(line) > 160
    ]


def test_no_page_fetches_anything_from_elsewhere():
    ours = ("rooms/**/*.html", "mindful_tally/**/*.html", "devices/*.html")
    shipped = (
        "mindful_tally/static/css/*.css",
        "mindful_tally/static/js/*.js",
        "rooms/*/static/**",
    )
    for path in tracked(*ours, *shipped):
        text = path.read_text()
        assert not re.search(r"(src|href|url\(|fetch\()\s*=?\s*[\"'(]*(https?:)?//", text), path
    for path in tracked("rooms/**/*.html", "mindful_tally/**/*.html"):
        assert not re.search(r"\son[a-z]+=|<script>|style=", path.read_text()), path


def test_every_fragment_says_in_its_first_line_what_it_is():
    for path in tracked("rooms/**/_*.html"):
        assert "{% comment %}" in path.read_text().splitlines()[0], path


def test_the_readme_shows_every_picture_and_links_no_missing_file():
    readme = (ROOT / "README.md").read_text()
    pictures = {path.name for path in (ROOT / "docs" / "screenshots").glob("*.png")}
    assert pictures == set(re.findall(r"docs/screenshots/([a-z-]+\.png)", readme))
    assert len(pictures) < 20
    for target in re.findall(r"\]\(([^)#:]+)\)", readme):
        assert (ROOT / target).exists(), target


def test_the_core_needs_no_django_and_no_clock():
    """Importing the command line must not bring the web application along."""
    code = "import sys, mindful_tally.cli; print('django' in sys.modules, 'aiohttp' in sys.modules)"
    answer = subprocess.run(
        [sys.executable, "-c", code], cwd=ROOT, capture_output=True, text=True, check=True
    )
    assert answer.stdout.split() == ["False", "False"]


def test_production_starts_only_with_its_secrets():
    environment = {k: v for k, v in os.environ.items() if k not in ("SECRET_KEY", "ALLOWED_HOSTS")}
    environment["DJANGO_SETTINGS_MODULE"] = "mindful_tally.settings.production"
    command = [sys.executable, "manage.py", "check"]
    answer = subprocess.run(
        command, cwd=ROOT, env=environment, capture_output=True, text=True, check=False
    )
    assert answer.returncode != 0
    assert "SECRET_KEY" in answer.stderr


def test_the_core_has_dates_but_no_clock():
    """`datetime` is a value there; what day it is, is an argument."""
    for path in tracked("cutting/*.py"):
        found = re.findall(r"\.(?:now|today|utcnow)\(", path.read_text())
        assert not found, (path, found)
