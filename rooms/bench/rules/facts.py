"""The facts of a finished test that may be corrected, with their labels."""

FACTS = {
    "weight_value": "Weight paid for",
    "opened_value": "Own weight at opening",
    "price_amount": "Price paid",
    "freight": "Freight",
    "discount": "Discount",
}
"""What of the test itself can be corrected."""
