"""Files that are sent here are limited in size and in time, whatever the form says later."""

from time import monotonic
from typing import Any

from django.core.exceptions import RequestDataTooBig, SuspiciousOperation
from django.core.files.uploadhandler import FileUploadHandler
from django.http import HttpRequest

LARGEST = 17 * 1024 * 1024
"""A hair over the largest document that any page reads."""
LONGEST_SECONDS = 60


class Limits(FileUploadHandler):
    """Ends an upload that is too large or too slow; the answer is a plain 400."""

    def __init__(self, request: HttpRequest | None = None) -> None:
        super().__init__(request)
        self.began, self.size = monotonic(), 0

    def receive_data_chunk(self, raw_data: Any, start: Any) -> Any:
        self.size += len(raw_data)
        if self.size > LARGEST:
            raise RequestDataTooBig(f"over {LARGEST} bytes of files")
        if monotonic() - self.began > LONGEST_SECONDS:
            raise SuspiciousOperation(f"the files took over {LONGEST_SECONDS} s")
        return raw_data

    def file_complete(self, file_size: Any) -> Any:
        return None
