"""Refusals that a view turns into a plain message with the right status."""


class Refused(Exception):
    """An action that cannot be done now. `status` is the HTTP status that fits."""

    status = 409

    def __init__(self, message: str, **details: object) -> None:
        super().__init__(message)
        self.message = message
        self.details = details


class BadInput(Refused):
    """A value that is wrong; the message names field, value and what would be right."""

    status = 422
