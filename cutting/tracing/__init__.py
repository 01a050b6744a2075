"""The way back: what is of which lot, and where its weight went."""
