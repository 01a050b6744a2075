"""What a request's body is read through."""

from typing import Any


class WholeBody:
    """A request's body that ends where it says, or not at all: half of a form is no form, and a weight
    without its last digit is a weight."""

    def __init__(self, stream: Any, length: int) -> None:
        self.stream, self.left = stream, length

    def read(self, size: int = -1) -> bytes:
        wanted = self.left if size < 0 else min(size, self.left)
        return self._counted(self.stream.read(wanted), wanted)

    def readline(self, size: int = -1) -> bytes:
        wanted = self.left if size < 0 else min(size, self.left)
        line: bytes = self.stream.readline(wanted)
        return self._counted(line, len(line) if line.endswith(b"\n") else wanted)

    def _counted(self, got: bytes, wanted: int) -> bytes:
        self.left -= len(got)
        if len(got) < wanted:
            raise ConnectionResetError("the request ended before its body did")
        return got
