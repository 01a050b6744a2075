"""The facts of a finished test that may be corrected, with their labels."""

FACTS = {
    "weight_value": "Weight paid for",
    "opened_value": "Own weight at opening",
    "price_amount": "Price paid",
    "freight": "Freight",
    "discount": "Discount",
}
"""What of the test itself can be corrected."""

VALUE = "value-"


def valued(name: str) -> int | None:
    """The output whose by-product value a correction changed; None for a fact of the test."""
    return int(name.removeprefix(VALUE)) if name.startswith(VALUE) else None
