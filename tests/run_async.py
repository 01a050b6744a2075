"""Coroutines in tests that may share their process with the browser."""

import asyncio
from concurrent.futures import ThreadPoolExecutor


def run_async(coroutine):
    """Run it to its end in a thread of its own: where Playwright is, the main one has a loop already."""
    with ThreadPoolExecutor(1) as pool:
        return pool.submit(asyncio.run, coroutine).result()
