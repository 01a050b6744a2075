"""Who may speak to a device's process: requests to a name it goes by, orders from pages that are let in.

A browser can be led to ask 127.0.0.1 under another name (DNS rebinding); the Host it sends then is that name.
"""

from __future__ import annotations

import argparse
import json
from collections.abc import Awaitable, Callable, Iterable
from typing import Any
from urllib.parse import urlsplit

from aiohttp import web

OWN_HOSTS = frozenset({"127.0.0.1", "::1", "localhost"})
"""Names of this machine; the port does not matter."""
READS = frozenset({"GET", "HEAD", "OPTIONS"})
Handler = Callable[[web.Request], Awaitable[web.StreamResponse]]


def only_known(hosts: Iterable[str] = (), pages: Iterable[str] = ()) -> Any:
    """Return a middleware. `hosts`: names beside this machine's own; `pages`: origins beside the process's
    own pages that may give orders. Answers 421 to a name it does not go by, 403 to another page."""
    names, origins = OWN_HOSTS | {one.lower() for one in hosts}, frozenset(pages)

    @web.middleware
    async def guard(request: web.Request, handler: Handler) -> web.StreamResponse:
        if _name_of(request.host) not in names:
            raise web.HTTPMisdirectedRequest(
                text="This process does not go by that name; --host lets another one in."
            )
        origin = request.headers.get("Origin")
        own = f"{request.scheme}://{request.host}"
        if request.method not in READS and origin is not None and origin not in (own, *origins):
            raise web.HTTPForbidden(text="That page may not give orders here.")
        return await handler(request)

    return guard


def _name_of(host: str) -> str:
    """The name in a Host header; empty where it is none."""
    try:
        return (urlsplit(f"//{host}").hostname or "").lower()
    except ValueError:
        return ""


async def read_object(request: web.Request) -> dict[str, Any]:
    """What was sent as a JSON object. Answers 415 to another kind of content, 400 to what is none."""
    if request.content_type != "application/json":
        raise web.HTTPUnsupportedMediaType(text="Send it as application/json.")
    try:
        found = json.loads(await request.text())
    except ValueError:
        found = None
    if not isinstance(found, dict):
        raise web.HTTPBadRequest(text="Send a JSON object.")
    return found


def add_hosts(options: argparse.ArgumentParser) -> None:
    """Let names be added on the command line."""
    words = "a name it is reached by beside 127.0.0.1 and localhost, repeatable"
    options.add_argument("--host", action="append", default=[], help=words)
