"""The devices' own panel pages, with the same strictness as the shop's."""

from __future__ import annotations

import html
import secrets
from pathlib import Path

from aiohttp import web

PLACE = "{nonce}"
"""Where a panel's file wants its nonce."""


def page(path: Path, **shown: str) -> web.Response:
    """A panel from its file: only its own style and script, only its own device, no frame.

    `shown`: what stands in the file as {name}.
    """
    nonce = secrets.token_urlsafe(16)
    policy = (
        f"default-src 'none'; script-src 'nonce-{nonce}'; style-src 'nonce-{nonce}';"
        " connect-src 'self'; img-src 'self' data:; form-action 'self'; base-uri 'none';"
        " frame-ancestors 'none'"
    )
    text = path.read_text(encoding="utf-8").replace(PLACE, nonce)
    for name, words in shown.items():
        text = text.replace(f"{{{name}}}", html.escape(words))
    return web.Response(
        text=text,
        content_type="text/html",
        headers={
            "Content-Security-Policy": policy,
            "Permissions-Policy": "camera=(), geolocation=(), microphone=(), usb=(), serial=()",
            "Referrer-Policy": "same-origin",
            "X-Content-Type-Options": "nosniff",
            "Cache-Control": "no-store",
        },
    )
