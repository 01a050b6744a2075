"""A shop that is in use keeps what its environment and settings file said until now."""

import json
import os

from django.conf import settings
from django.db import migrations
from django.utils import timezone

BEFORE = {
    "name": "The shop",
    "short_name": "The shop",
    "currency": "USD",
    "unit": "lb",
    "labour_rate": "24.00",
    "price_way": "piece",
    "endings": [{"under": "20", "endings": ["0.49", "0.99"]}, {"endings": ["0.99"]}],
    "ending_direction": "nearest",
    "school": "sales_value",
    "target_margin": "0.42",
    "names_first": "us",
    "house_rules": {},
    "delivery_days": [1, 4],
    "origin_asked": ["lamb"],
}
PLATE = {"capacity": "30", "unit": "lb", "division": "0.01"}
NAMES = {
    "name": "SHOP_NAME",
    "short_name": "SHOP_SHORT_NAME",
    "currency": "CURRENCY",
    "names_first": "NAMES_FIRST",
}


def keep(apps, schema_editor):
    if not apps.get_model("staff", "Person").objects.exists():
        return  # a new shop: its first day asks
    old = {**BEFORE, **getattr(settings, "SHOP", {})}
    for name, variable in NAMES.items():
        old[name] = os.environ.get(variable, old[name])
    rules = old["house_rules"]
    short = old["short_name"]
    row = dict(
        id=1,
        name=old["name"][:60],
        own_short_name="" if short == BEFORE["short_name"] else short[:20],
        currency=old["currency"][:3],
        unit=old["unit"],
        names_first=old["names_first"],
        time_zone=settings.TIME_ZONE,
        day_order="day",
        clock="24",
        labour_rate=old["labour_rate"],
        school=old["school"],
        price_way=old["price_way"],
        target_margin=old["target_margin"],
        floor_margin=None,
        endings=old["endings"],
        ending_direction=old["ending_direction"],
        delivery_days=old["delivery_days"],
        origin_asked=old["origin_asked"],
        warmest=5000,
        coldest=1000,
        scales=plates(),
        fat_level="",
        steak_trim=rules.get("steak-trim", "whole"),
        silver_skin=rules.get("silver-skin", "never"),
        leg_cap=rules.get("leg-cap", "grill"),
        boning="open",
        is_set_up=True,
    )
    apps.get_model("shop", "Shop").objects.create(**row)
    apps.get_model("shop", "HistoricalShop").objects.create(
        **row,
        history_type="+",
        history_date=timezone.now(),
        history_change_reason="as the environment said before",
    )


def plates():
    """The first scale, and those the environment named with their plates."""
    first = {"name": "block", "label": "Block scale", **PLATE, **getattr(settings, "SCALE", {})}
    found = [first]
    for more in json.loads(os.environ.get("MORE_SCALES", "[]")):
        plate = {**first, "label": more["name"].capitalize(), **more}
        found.append({name: plate[name] for name in first})
    return found


class Migration(migrations.Migration):
    dependencies = [("shop", "0001_settings"), ("staff", "0003_one_open_turn")]
    operations = [migrations.RunPython(keep, migrations.RunPython.noop)]
