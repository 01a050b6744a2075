#!/usr/bin/env python3
"""Save what every kind of page and file of a shop answers, for a comparison before and after.

    tools/crawl.py var/demo.sqlite3 /tmp/before 2026-12-02T09:00
    (in another checkout) tools/crawl.py var/demo.sqlite3 /tmp/after 2026-12-02T09:00
    diff -r /tmp/before /tmp/after

The database is copied, and only the copy is brought up to date. The clock stands still at the
moment given, which is the shop's own time.
"""

import argparse
import collections
import io
import os
import re
import shutil
import sqlite3
import sys
import zipfile
from datetime import datetime
from pathlib import Path
from urllib.parse import urldefrag, urljoin, urlsplit
from zoneinfo import ZoneInfo

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))
MOST = 600
MOST_OF_A_KIND = 4
LINKS = re.compile(r"""(?:href|hx-get|src|action|data-[a-z-]*url)="([^"#]+)""")
CHANGES_EACH_TIME = (
    (re.compile(r'nonce="[^"]*"'), 'nonce="…"'),
    (re.compile(r'name="csrfmiddlewaretoken" value="[^"]*"'), 'name="csrfmiddlewaretoken"'),
    (re.compile(r'"X-CSRFToken": ?"[^"]*"|X-CSRFToken&quot;: ?&quot;[^&]*'), "X-CSRFToken"),
    (re.compile(r"[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[0-9a-f]{4}-[0-9a-f]{12}"), "UUID"),
    (re.compile(r":[0-9A-Za-z]{6}:[\w-]{43}"), ":SIGNED"),
    (re.compile(r"static/[^\"' )]*/([a-z.0-9-]+)"), r"static/\1"),
)


def arguments():
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("database", type=Path)
    parser.add_argument("folder", type=Path)
    parser.add_argument("moment", type=datetime.fromisoformat)
    return parser.parse_args()


def stop_clock(moment):
    """Make the clock of Django's own functions stand still."""
    from django.utils import timezone

    at = moment.replace(tzinfo=ZoneInfo("America/New_York"))
    timezone.now = lambda: at


def text_of(answer):
    """Write an answer as text that two runs of the same state share."""
    kind = answer.headers.get("Content-Type", "").split(";")[0]
    body = b"".join(answer.streaming_content) if answer.streaming else answer.content
    if kind == "application/pdf":
        from pypdf import PdfReader

        return kind, "\n".join(page.extract_text() for page in PdfReader(io.BytesIO(body)).pages)
    if body[:2] == b"PK":
        parts = zipfile.ZipFile(io.BytesIO(body))
        names = [name for name in sorted(parts.namelist()) if not name.startswith("docProps")]
        return kind, "\n".join(f"{name}\n{parts.read(name).decode()}" for name in names)
    if not kind.startswith(("text/", "application/json", "image/svg")):
        return kind, body.hex()
    text = body.decode()
    for pattern, instead in CHANGES_EACH_TIME:
        text = pattern.sub(instead, text)
    return kind, "\n".join(line.strip() for line in text.splitlines() if line.strip())


def crawl(folder):
    """Follow the links from the first page, breadth first, at most a few addresses a route."""
    from django.test import Client
    from django.urls import Resolver404, resolve

    from tests.conftest import at_tablet

    client = Client()
    client.cookies.load(at_tablet("bram", "crawl", is_confirmed=True))
    waiting, seen = collections.deque(["/"]), {"/"}
    kinds, rows = collections.Counter(), []
    while waiting and len(rows) < MOST:
        address = waiting.popleft()
        try:
            route = resolve(urlsplit(address).path).route
        except Resolver404:
            continue
        kind = (route, "?" in address)
        if kinds[kind] >= MOST_OF_A_KIND:
            continue
        kinds[kind] += 1
        answer = client.get(address)
        if answer.status_code == 405:  # where a form posts to
            continue
        sort, text = text_of(answer)
        name = re.sub(r"[^A-Za-z0-9_.=-]+", "_", address)[:150] or "_"
        head = f"{address}\n{answer.status_code} {sort} {answer.headers.get('Location', '')}\n"
        (folder / f"{name}.txt").write_text(head + text)
        rows.append((answer.status_code, address))
        if sort != "text/html":
            continue
        for link in LINKS.findall(answer.content.decode()):
            there = urldefrag(urljoin(address, link.replace("&amp;", "&"))).url
            parts = urlsplit(there)
            if parts.netloc or parts.path.startswith("/static") or there in seen:
                continue
            seen.add(there)
            waiting.append(there)
    counts = collections.Counter(status for status, _ in rows)
    print(f"{len(rows)} addresses of {len(kinds)} kinds; by status: {dict(counts)}")


def main():
    asked = arguments()
    shutil.rmtree(asked.folder, ignore_errors=True)
    asked.folder.mkdir(parents=True)
    copy = asked.folder.parent / f"{asked.folder.name}.sqlite3"
    copy.unlink(missing_ok=True)
    with sqlite3.connect(asked.database) as old, sqlite3.connect(copy) as new:
        old.backup(new)
    os.environ["TALLY_DB"] = str(copy)
    os.environ["DJANGO_SETTINGS_MODULE"] = "mindful_tally.settings.test"
    import django

    django.setup()
    from django.core.management import call_command

    call_command("migrate", verbosity=0)
    stop_clock(asked.moment)
    crawl(asked.folder)


if __name__ == "__main__":
    main()
