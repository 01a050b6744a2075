"""The schools of costing, and a finished test on one sheet."""
