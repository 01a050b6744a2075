"""The grinder's house rules, its seasonings, nutrition facts."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from rooms.common.errors import BadInput
from rooms.common.web.refusals import Told, rebasing
from rooms.grinder.actions.house import change_rules, drop_seasoning, save_facts, save_seasoning
from rooms.grinder.forms import FactsForm, RulesForm, SeasoningForm
from rooms.grinder.models import GrinderRules, NutritionFacts, Seasoning
from rooms.grinder.queries.house import house_rules
from rooms.grinder.views.asked import row_in
from rooms.staff.block import by_id
from rooms.staff.rights import Right, may


@may(Right.SHOP)
@require_http_methods(["GET", "POST"])
def rules_page(request: HttpRequest) -> HttpResponse:
    """All on one page; each form keeps what was typed where it is refused."""
    told, what = Told(), request.POST.get("what", "")
    now = house_rules()
    forms: dict[str, Any] = {
        "rules": RulesForm(initial=RulesForm.filled(now)),
        "seasoning": SeasoningForm(),
        "facts": FactsForm(),
    }
    if request.method == "POST":
        kinds: dict[str, Any] = {"rules": RulesForm, "seasoning": SeasoningForm, "facts": FactsForm}
        if what in kinds:
            forms[what] = kinds[what](request.POST)
        with told:
            if what in kinds and not forms[what].is_valid():
                raise BadInput("Not kept: what is wrong stands at its field.")
            _keep(request, what, forms)
            return redirect("grinder:rules")
    context = {
        **forms,
        "now": now,
        "seasonings": Seasoning.objects.filter(is_dropped=False),
        "all_facts": NutritionFacts.objects.select_related("product"),
        "changes": GrinderRules.history.select_related("history_user")[:8],
        "refused": told.refused,
    }
    return render(request, "grinder/rules.html", context, status=told.status())


def _keep(request: HttpRequest, what: str, forms: dict[str, Any]) -> None:
    at = by_id(request)
    if what == "rules":
        with rebasing(forms["rules"]):
            change_rules(forms["rules"].values, forms["rules"].cleaned_data["seen"], at)
    elif what == "seasoning":
        data = forms["seasoning"].cleaned_data
        with rebasing(forms["seasoning"]):
            save_seasoning(data, at, data["seen"])
    elif what == "drop":
        drop_seasoning(row_in(request), at)
    elif what == "facts":
        data = forms["facts"].cleaned_data
        with rebasing(forms["facts"]):
            save_facts(data, forms["facts"].amounts, at, data["seen"])
    else:
        raise BadInput("House rules: one of the buttons is right.")
