"""The shop's worker, in a hurry: for tests of what it ends."""

from mindful_tally.worker import TimedWorker


class Impatient(TimedWorker):
    head, body, silence = 0.6, 2.0, 0.6
