"""What a browser is told that a page of ours may do: the strict policy, and no device at all."""

from typing import Any
from urllib.parse import urlsplit

from csp.middleware import CSPMiddleware
from django.conf import settings
from django.http import HttpRequest

NOTHING = (
    "accelerometer",
    "autoplay",
    "camera",
    "display-capture",
    "encrypted-media",
    "geolocation",
    "gyroscope",
    "hid",
    "magnetometer",
    "microphone",
    "midi",
    "payment",
    "picture-in-picture",
    "publickey-credentials-get",
    "screen-wake-lock",
    "serial",
    "usb",
    "xr-spatial-tracking",
)
PERMISSIONS = ", ".join(f"{name}=()" for name in NOTHING)


def bridges() -> list[str]:
    """The origins of the scales' bridges."""
    urls = [settings.SCALE_URL, *(scale.get("url", "") for scale in settings.MORE_SCALES)]
    parts = [urlsplit(url) for url in urls if url]
    return [f"{part.scheme}://{part.netloc}" for part in parts]


class Headers(CSPMiddleware):
    """The policies on every answer. Only who is signed in is told where the scales are."""

    def get_policy_parts(
        self, request: HttpRequest, response: Any, report_only: bool = False
    ) -> Any:
        parts = super().get_policy_parts(request, response, report_only)
        is_signed_in = getattr(request, "at_the_block", None) is not None
        if is_signed_in and not report_only and (scales := bridges()):
            parts.update = {**(parts.update or {}), "connect-src": scales}
        return parts

    def process_response(self, request: HttpRequest, response: Any) -> Any:
        response.headers.setdefault("Permissions-Policy", PERMISSIONS)
        return super().process_response(request, response)
