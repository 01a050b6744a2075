"""The invented shop: its people, suppliers, products and prices. Everything here is made up."""

from dataclasses import dataclass

NAME = "Gull Quay Co-operative"
PEOPLE = (
    ("ines", "Ines", "cutter", "3141"),
    ("bram", "Bram", "manager", "2718"),
    ("tove", "Tove", "apprentice", "1618"),
    ("odile", "Odile", "auditor", "4669"),
)
UNDER_18 = "tove"
PASSWORD = "gull-quay-demo"  # noqa: S105 (an invented shop; nothing here is secret)

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
    name: str = ""


MORE_PRICES = """
beef-rib-roast 15.99 10.40 12.30 4.00
beef-rib-steak 17.99 11.20 13.40 2.50
beef-rib-filet 24.99 15.80 18.90 1.00
beef-rib-cap 29.99 17.00 21.50 1.00
beef-back-ribs 5.99 2.90 4.20 3.00
beef-kebab 9.99 5.40 7.30 1.00
beef-ribeye-roast 17.99 12.10 14.20 4.00
beef-chuck-eye-steak 10.99 6.30 8.10 1.25
beef-chuck-eye-roast 7.99 4.90 6.10 3.00
beef-chuck-roast 6.99 4.40 5.40 3.00
beef-chuck-steak 6.99 4.40 5.50 1.50
beef-under-blade-steak 9.49 5.60 7.20 1.00
beef-pot-roast 6.99 4.30 5.40 3.00
beef-boneless-short-ribs 9.99 5.60 7.40 1.50
beef-splenius 7.99 4.30 5.90 1.00
beef-shoulder-roast 6.49 4.10 5.10 3.00
beef-top-blade-roast 7.49 4.60 5.80 2.50
beef-top-blade-steak 8.49 4.90 6.40 0.90
beef-sirloin-centre 13.99 8.30 10.60 1.10
beef-sirloin-side 11.99 7.20 9.10 1.10
beef-sirloin-cap 11.99 7.00 9.20 1.10
beef-sirloin-full 10.99 6.80 8.60 1.75
beef-sirloin-roast 9.99 6.30 7.80 3.00
beef-undercut 11.99 6.80 9.00 0.80
beef-porterhouse 17.99 11.60 14.00 1.50
beef-t-bone 16.99 11.00 13.20 1.25
beef-bone-in-strip 14.99 9.80 11.80 1.10
beef-loin-roast 13.99 9.20 11.00 3.00
beef-strip-steak 17.99 11.20 13.60 1.60
beef-strip-end 13.99 8.60 10.80 1.50
beef-strip-roast 14.99 9.90 12.00 3.50
beef-tenderloin-piece 24.99 16.40 20.10 3.00
beef-tip-roast 6.99 4.50 5.50 3.00
beef-tip-steak 7.99 4.80 6.20 1.00
beef-tender-top 9.99 5.80 7.60 1.00
beef-inside-steak 8.49 5.00 6.60 1.25
beef-london-broil 7.99 4.90 6.20 2.00
beef-round-sandwich 9.49 5.20 7.00 0.75
beef-inside-cap 6.99 3.90 5.20 0.60
beef-inside-roast 6.99 4.50 5.50 3.00
beef-bottom-roast 6.49 4.20 5.10 3.00
beef-western-tip 8.49 5.00 6.50 1.00
beef-bottom-broil 6.99 4.40 5.50 2.00
beef-round-steak 6.99 4.30 5.40 1.50
beef-cube-round 7.99 4.40 6.10 1.00
beef-eye-roast 6.99 4.50 5.50 2.50
beef-eye-thin 9.49 5.30 7.10 0.75
beef-cube-eye 7.99 4.40 6.10 1.00
beef-flank-steak 12.99 7.90 10.10 1.75
beef-flap 13.99 8.30 10.80 1.00
beef-tri-tip 10.99 6.60 8.40 2.25
beef-tri-tip-steak 11.99 7.00 9.10 1.00
pork-shoulder-whole 2.49 1.50 1.90 20.00
pork-loin-whole 3.29 2.10 2.60 15.00
pork-leg-whole 2.29 1.40 1.80 20.00
pork-roll-up 4.99 2.80 3.70 6.00
pork-tenderloin 6.99 4.00 5.20 1.20
pork-medallions 8.99 5.00 6.60 0.80
pork-belly-fresh 5.49 3.00 4.00 2.50
pork-belly-slices 6.49 3.50 4.80 1.00
pork-spare-ribs 3.99 2.30 3.00 4.00
pork-st-louis 4.99 2.90 3.80 3.00
pork-rib-tips 2.99 1.50 2.20 2.00
pork-back-ribs 5.99 3.40 4.50 2.00
pork-country-style 3.99 2.30 3.00 2.50
pork-loin-chop-bone-in 4.49 2.60 3.40 2.00
pork-rib-chop 4.49 2.60 3.40 2.00
pork-sirloin-chop 3.49 2.10 2.70 2.00
pork-collar 4.49 2.50 3.30 3.00
pork-picnic-roast 2.99 1.70 2.20 4.00
pork-shoulder-ribs 2.99 1.60 2.20 2.50
pork-brisket 4.99 2.60 3.60 1.50
pork-petite-tender 6.99 3.60 5.00 0.60
pork-neck-muscle 6.99 3.40 5.00 0.80
pork-mini-roast 4.99 2.80 3.70 1.50
pork-leg-roast 3.99 2.30 3.00 4.00
pork-shank 2.99 1.60 2.20 2.00
pork-leg-cap 4.99 2.60 3.60 0.60
pork-cutlet 5.99 3.20 4.40 0.80
pork-leg-eye 4.99 2.80 3.70 1.20
pork-knuckle 4.49 2.50 3.30 2.00
pork-leg-sirloin 4.49 2.50 3.30 1.80
pork-tri-tip 5.99 3.10 4.30 0.60
lamb-leg-rolled 10.99 6.80 8.70 4.00
lamb-eye-slices 14.99 8.40 11.20 0.50
lamb-sirloin 12.99 7.80 10.00 0.90
lamb-shoulder-rolled 9.49 5.60 7.20 4.50
lamb-fore-shank 8.99 5.20 6.80 1.50
lamb-diced 11.99 6.80 9.00 1.00
lamb-rack-frenched 22.99 14.00 17.80 1.60
lamb-rib-chop 21.99 13.40 17.00 0.80
lamb-double-chop 21.99 13.40 17.00 0.90
lamb-loin-chop 15.99 9.80 12.40 1.00
lamb-loin-rolled 18.99 11.20 14.40 2.00
beef-complexus 12.99 7.20 9.60 0.50
beef-meaty-bones 3.49 1.60 2.40 3.00
beef-clod-medallions 9.99 5.60 7.60 0.80
beef-clod-short-rib 7.49 4.40 5.80 1.25
beef-sirloin-cap-roast 13.99 8.40 10.90 2.25
beef-sirloin-cap-diced 9.99 5.60 7.60 0.75
beef-strip-whole 12.99 9.10 10.80 11.00
beef-tip-sandwich 9.49 5.20 7.00 0.75
pork-long-rib-chop 5.49 3.10 4.10 1.50
pork-back-bacon 5.99 3.40 4.50 4.00
pork-flank 2.99 1.70 2.30 1.50
pork-loin-sirloin 3.99 2.40 3.10 3.00
pork-country-boneless 4.99 2.80 3.70 1.50
pork-jowl 3.49 1.80 2.50 2.00
pork-feet 1.99 0.80 1.30 2.00
pork-tail 2.49 1.00 1.60 1.00
pork-skin 1.99 0.60 1.20 1.00
pork-breast-cartilage 1.99 0.80 1.30 1.00
beef-hind-shank 5.49 3.20 4.20 3.00
beef-brisket-whole 5.99 4.00 4.80 12.00
beef-brisket-flat 7.99 5.00 6.20 5.00
beef-brisket-point 6.99 4.20 5.40 3.00
beef-plate-short-ribs 7.99 4.80 6.20 3.00
beef-inside-skirt 10.99 6.60 8.60 1.25
beef-outside-skirt 13.99 8.40 10.90 1.25
beef-hanger-steak 12.99 7.60 10.00 1.00
beef-shank-cross 6.49 3.80 5.00 2.00
beef-shin 7.49 4.30 5.80 1.50
beef-oxtail-cut 8.99 5.20 6.90 2.50
beef-chuck-kebab 8.99 5.00 6.80 1.00
beef-chuck-strips 8.99 5.00 6.80 0.80
pork-butt-roast 3.49 2.00 2.60 4.00
pork-blade-steak 3.99 2.20 2.90 1.50
pork-picnic-bone-in 2.49 1.40 1.80 6.00
pork-hock 2.99 1.50 2.10 2.00
pork-leaf-fat 2.49 1.00 1.60 2.00
pork-scallop 5.99 3.20 4.40 0.80
lamb-breast-rolled 7.99 4.40 5.90 2.00
lamb-riblets 6.99 3.80 5.10 1.50
lamb-inside-roast 13.99 8.20 10.60 1.50
"""
"""Cut, retail, transfer, ready-cut, typical tray: the rest of the case."""

RENAMED = {"beef-inside-steak": "Ranch steak"}
"""The shop calls two muscles by one name, so that the flag can be seen."""

MORE = tuple(
    DemoProduct(cut, retail, transfer, ready, None, tray, name=RENAMED.get(cut, ""))
    for cut, retail, transfer, ready, tray in (
        line.split() for line in MORE_PRICES.split("\n") if line
    )
)

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
    *MORE,
    DemoProduct("beef-bones", "2.49", "0.80", None, None, "4.00"),
    DemoProduct("pork-bones", "1.49", "0.50", None, None, "4.00"),
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

ESTABLISHMENTS = {
    "Skerry Point Packing": "M-0417",
    "Low Holm Provisions": "M-0952",
    "Ferryman Wholesale": "P-1130",
}
COOLER_PRICES = {
    **INVOICE,
    "beef-top-sirloin": "6.90",
    "beef-chuck-roll": "4.85",
    "beef-strip-loin": "8.70",
    "beef-top-round": "4.20",
    "pork-shoulder": "1.95",
    "pork-back-ribs": "3.60",
    "lamb-rack": "12.80",
}
COOLER_CODES = {"beef-tenderloin": "95011015300014", "beef-ribeye": "95011015300021"}
"""Case codes (GTIN) that the simulated scanner types; 950 is the range GS1 keeps for examples."""

WANTED = {
    "beef-centre-filet": ("4", "8"),
    "beef-ribeye-steak": ("10", "18"),
    "beef-strip-steak": ("6", "14"),
    "beef-ground": ("20", "60"),
    "beef-flat-iron": ("2", "5"),
    "pork-loin-chop": ("8", "16"),
    "pork-back-ribs": ("3", "9"),
    "lamb-rib-chop": ("2", "5"),
    "beef-filet-tips": ("1", "3"),
    "beef-tip-centre-steak": ("4", "9"),
    "beef-tip-side-steak": ("3", "7"),
    "beef-cube-steak": ("2", "6"),
    "beef-stew": ("3", "8"),
    "beef-ranch-steak": ("4", "9"),
    "beef-shoulder-roast": ("3", "8"),
    "beef-chuck-eye-steak": ("2", "6"),
    "beef-chuck-roast": ("4", "10"),
    "beef-sirloin-centre": ("5", "12"),
    "beef-sirloin-cap": ("2", "5"),
    "beef-london-broil": ("3", "8"),
    "beef-inside-roast": ("3", "8"),
    "lamb-cutlets": ("2", "5"),
    "lamb-kebab": ("2", "5"),
}
"""Least and most in the case, lb; half as much again on Friday and Saturday."""

RESTAURANTS = [
    ("The Slipway", "beef-centre-filet", "connective tissue out", 12, "8", "oz", 4),
    ("The Net Loft", "beef-flat-iron", "halves, 6 oz", 10, "6", "oz", 5),
]
"""Standing orders: who, what, how it is cut, portions, weight and unit of one, day of the week."""
CASES = {"beef-tenderloin": (6, "0.40"), "beef-ribeye": (4, "0.30"), "beef-strip-loin": (4, "0.30")}
"""Pieces in a case, and what one alone costs more a lb."""
HOLIDAY = ("Harbor feast", 9, 11, "150")
"""A holiday: its first and last day from today, percent of the usual."""
