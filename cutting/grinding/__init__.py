"""The grinder: tubs, blends with a lean point, what a batch may be called, what it costs."""
