"""The cutting test: balance, yields, portions, tubs, time, pooled tests."""
