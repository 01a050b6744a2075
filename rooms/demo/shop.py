"""The invented shop: its people, suppliers, products and prices. Everything here is made up."""

from dataclasses import dataclass

PEOPLE = (
    ("ines", "Ines", "cutter"),
    ("bram", "Bram", "manager"),
    ("tove", "Tove", "apprentice"),
    ("odile", "Odile", "auditor"),
)

SUPPLIERS = ("Skerry Point Packing", "Low Holm Provisions", "Ferryman Wholesale")
BAD_SUPPLIER = "Ferryman Wholesale"


@dataclass(frozen=True)
class DemoProduct:
    """`retail`, `transfer` and `ready_cut` are per lb; `tray` is a typical tray in lb."""

    cut: str
    retail: str | None = None
    transfer: str | None = None
    ready_cut: str | None = None
    target: str | None = None
    tray: str | None = None
    floor: str = "0.25"


PRODUCTS = (
    DemoProduct("beef-centre-filet", "29.99", "19.00", "24.50", "0.40", "0.90"),
    DemoProduct("beef-filet-tips", "14.99", "7.90", "11.20", None, "0.80"),
    DemoProduct("beef-ribeye-steak", "19.99", "13.00", "14.80", "0.38", "1.75"),
    DemoProduct("beef-sandwich-steak", "14.99", "7.50", "11.60", None, "0.75"),
    DemoProduct("beef-tip-centre-steak", "9.99", "5.60", "7.40", None, "1.00"),
    DemoProduct("beef-tip-side-steak", "8.99", "4.90", "6.60", None, "1.00"),
    DemoProduct("beef-cube-steak", "7.99", "4.40", "6.10", None, "1.00"),
    DemoProduct("beef-flat-iron", "11.99", "6.40", "8.70", None, "0.80"),
    DemoProduct("beef-petite-tender", "11.99", "6.40", "8.90", None, "0.70"),
    DemoProduct("beef-ranch-steak", "8.49", "4.80", "6.30", None, "1.00"),
    DemoProduct("beef-shoulder-steak", "7.99", "4.60", "5.90", None, "1.25"),
    DemoProduct("beef-stew", "7.99", "4.30", "5.80", None, "1.25"),
    DemoProduct("beef-stir-fry", "8.49", "4.50", "6.20", None, "0.80"),
    DemoProduct("beef-ground", "6.49", "3.20", "4.10", None, "1.50"),
    DemoProduct("beef-hard-fat", None, "0.35"),
    DemoProduct("pork-loin-chop", "5.49", "2.90", "3.90", None, "1.50"),
    DemoProduct("pork-loin-roast", "4.49", "2.50", "3.20", None, "2.00"),
    DemoProduct("pork-stir-fry", "5.49", "2.40", "3.90", None, "0.80"),
    DemoProduct("pork-lean-trim", "3.99", "1.60", "2.60", None, "1.25"),
    DemoProduct("pork-fat", None, "0.40"),
    DemoProduct("lamb-inside-steak", "16.99", "9.50", "12.80", None, "0.70"),
    DemoProduct("lamb-cutlets", "15.99", "8.90", "12.10", None, "0.70"),
    DemoProduct("lamb-knuckle-roast", "13.99", "8.20", "10.60", None, "1.10"),
    DemoProduct("lamb-kebab", "13.99", "7.60", "10.40", None, "0.80"),
    DemoProduct("lamb-shank", "9.99", "5.60", "7.80", None, "0.80"),
    DemoProduct("lamb-ground", "9.99", "4.80", "6.90", None, "1.00"),
    DemoProduct("lamb-bones", None, "0.60"),
)

INVOICE = {
    "beef-tenderloin": "11.40",
    "beef-ribeye": "9.80",
    "beef-knuckle": "4.60",
    "beef-shoulder-clod": "4.10",
    "pork-loin": "2.65",
    "lamb-leg": "6.40",
}
"""What each piece costs a lb, give or take the week."""
