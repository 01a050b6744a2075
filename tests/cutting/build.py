"""Short ways to say a test in a test."""

from decimal import Decimal

from cutting.quantities import Unit, UnitPrice, Weight
from cutting.sheet.cutting_test import CuttingTest, Output, Piece, Role, Weighing


def weight(text: str) -> Weight:
    """weight("6.17 lb")"""
    value, unit = text.split()
    return Weight.of(value, unit)


def price(text: str) -> UnitPrice:
    """price("7.49") is per lb; price("7.49 kg") per kg."""
    amount, _, unit = text.partition(" ")
    return UnitPrice.of(amount, unit or "lb")


def output(name: str, role: str, *weights: str, **facts) -> Output:
    """output("tips", "secondary", "0.58 lb", retail="16.99")"""
    for key in ("retail", "credit", "replacement"):
        if key in facts:
            facts[key] = price(facts[key])
    if "target" in facts:
        facts["target"] = weight(facts["target"])
    if "minutes" in facts:
        facts["minutes"] = Decimal(facts["minutes"])
    return Output(name, Role(role), tuple(Weighing(weight(w)) for w in weights), **facts)


def piece(paid: str = "10 lb", at: str = "5", **facts) -> Piece:
    if "opened_weight" in facts:
        facts["opened_weight"] = weight(facts["opened_weight"])
    return Piece(weight(paid), price(at), **facts)


def cutting_test(*outputs: Output, of: Piece | None = None, **facts) -> CuttingTest:
    return CuttingTest(of or piece(), weight("0.01 lb"), outputs, **facts)


def tenderloin() -> CuttingTest:
    """The worked example of a by-product credit test. Common practice, no published source."""
    return cutting_test(
        output("trim", "credit", "2.21 lb", credit="0.99"),
        output("tails and trimmings", "credit", "1.36 lb", credit="4.95"),
        output("filets", "main", "2.61 lb", count=6),
        of=piece("6.17 lb", "7.49"),
    )


LB = Unit.LB
