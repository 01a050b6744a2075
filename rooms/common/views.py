"""The theme, and pages for requests that cannot be answered."""

from django.http import HttpResponseRedirect
from django.shortcuts import render
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_POST

from rooms.common.context import THEMES
from rooms.common.doors import open_to_all

A_YEAR = 365 * 24 * 3600


@open_to_all
@require_POST
def set_theme(request):
    theme = request.POST.get("theme", "")
    response = HttpResponseRedirect(back(request))
    if theme in THEMES:
        response.set_cookie("theme", theme, max_age=A_YEAR, samesite="Lax")
    return response


def back(request):
    """Where a small form returns to: the page it came from, only within this site."""
    target = request.POST.get("back", "")
    safe = url_has_allowed_host_and_scheme(target, {request.get_host()})
    return target if safe and target.startswith("/") else "/"


def refusal(request, refused, template="refused.html", **context):
    """A plain page for a `Refused`, with its status."""
    context |= {"message": refused.message, "details": refused.details}
    return render(request, template, context, status=refused.status)


def _page(request, status, happened, todo):
    return render(request, "refused.html", {"message": happened, "todo": todo}, status=status)


def bad_request(request, exception=None):
    return _page(request, 400, "The request could not be read.", "Go back and try once more.")


def forbidden(request, exception=None, reason=""):
    return _page(
        request, 403, "The page was too old to be sent.",
        "Nothing was changed. Load the page again and repeat the step.",
    )  # fmt: skip


def not_found(request, exception=None):
    return _page(request, 404, "There is no such page.", "Start again from the bench.")


def server_error(request):
    return _page(
        request, 500, "Something went wrong here.",
        "Everything that was taken before is safe. Try once more.",
    )  # fmt: skip
