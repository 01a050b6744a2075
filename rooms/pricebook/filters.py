"""Choosing among products: by name, animal, family, on sale or not."""

from typing import Any

import django_filters
from django import forms

from rooms.catalog.models import Species
from rooms.common.words import fold
from rooms.pricebook.models import Family, Product


class ProductFilter(django_filters.FilterSet):
    name = django_filters.CharFilter(label="Name or muscle", method="by_name")
    species = django_filters.ChoiceFilter(
        label="Animal", field_name="cut__species", choices=Species.choices, empty_label="all"
    )
    family = django_filters.ModelChoiceFilter(
        label="Family", queryset=Family.objects.all(), empty_label="all"
    )
    is_sold = django_filters.ChoiceFilter(
        label="On sale", choices=[("True", "yes"), ("False", "no")], empty_label="all"
    )
    order = django_filters.OrderingFilter(
        label="Order",
        empty_label="animal, name",
        fields=[("name", "name"), ("family__name", "family"), ("target_margin", "target")],
        field_labels={"name": "name", "family__name": "family", "target_margin": "target"},
    )

    class Meta:
        model = Product
        fields: tuple[str, ...] = ()
        form = forms.Form

    def by_name(self, rows: Any, _name: Any, value: Any) -> Any:
        """In the product's own name or in any name of its cut and muscle."""
        return rows.filter(name__icontains=value) | rows.filter(cut__search__contains=fold(value))
