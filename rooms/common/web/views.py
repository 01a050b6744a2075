"""The theme, and the page of a refusal."""

from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_POST

from rooms.common.web.context import THEMES
from rooms.common.web.doors import open_to_all

A_YEAR = 365 * 24 * 3600


@open_to_all
@require_POST
def set_theme(request: HttpRequest) -> HttpResponse:
    theme = request.POST.get("theme", "")
    response = HttpResponseRedirect(back(request))
    if theme in THEMES:
        response.set_cookie("theme", theme, max_age=A_YEAR, samesite="Lax")
    return response


def back(request: HttpRequest) -> HttpResponse:
    """Where a small form returns to: the page it came from, only within this site."""
    target = request.POST.get("back", "")
    safe = url_has_allowed_host_and_scheme(target, {request.get_host()})
    return target if safe and target.startswith("/") else "/"
