"""How a refusal is told. What a view does not tell itself is told on a plain page by `Plainly`.

- `told_by(page)`: the same page again with what was refused, everything typed kept.
- `told_in(form, field)`: as a fault of the form.
- `Told`: kept for a page that is made at the end of its view.
"""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import wraps
from typing import Any

from django.forms import BaseForm
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from rooms.common.errors import KeyTaken, Overtaken, Refused

View = Callable[..., HttpResponse]


def refusal(request: HttpRequest, refused: Refused, template: str = "refused.html") -> HttpResponse:
    """A page or a fragment that says what was refused, with its status."""
    context = {"message": refused.message, "details": refused.details}
    return render(request, template, context, status=refused.status)


def told_by(page: View) -> Callable[[View], View]:
    """A refusal in the view is answered by `page(request, refused, *arguments of the view)`."""

    def around(view: View) -> View:
        @wraps(view)
        def answered(request: HttpRequest, *args: object, **kwargs: object) -> HttpResponse:
            try:
                return view(request, *args, **kwargs)
            except KeyTaken:  # told by one page for all actions
                raise
            except Refused as refused:
                return page(request, refused, *args, **kwargs)

        return answered

    return around


def told_in_fragment(template: str) -> Callable[[View], View]:
    """A refusal is answered by a fragment alone."""
    return told_by(lambda request, refused, *args, **kwargs: refusal(request, refused, template))


@contextmanager
def told_in(form: BaseForm, field: str | None = None) -> Iterator[None]:
    """A refusal in the block becomes a fault of the form (of one field)."""
    try:
        yield
    except KeyTaken:
        raise
    except Refused as refused:
        if isinstance(refused, Overtaken) and hasattr(form, "rebase"):
            form.rebase(refused)
        form.add_error(field, refused.message)
        form.refused_with = refused.status


@contextmanager
def rebasing(form: Any) -> Iterator[None]:
    """A form whose row somebody else changed since is shown with the row as it is now; the refusal goes on."""
    try:
        yield
    except Overtaken as overtaken:
        form.rebase(overtaken)
        raise


def status_of(form: BaseForm) -> int:
    """The status of a page that shows this form: a refusal's own, 422 for a fault, else 200."""
    return getattr(form, "refused_with", 422) if form.errors else 200


class Told:
    """A refusal in the block is kept as `refused`."""

    refused: Refused | None = None

    def status(self, *, is_wrong: bool = False) -> int:
        """The refusal's own, 422 where the page shows another fault, else 200."""
        return self.refused.status if self.refused else 422 if is_wrong else 200

    def __enter__(self) -> "Told":
        return self

    def __exit__(self, kind: object, fault: object, trace: object) -> bool:
        if isinstance(fault, Refused) and not isinstance(fault, KeyTaken):
            self.refused = fault
            return True
        return False
