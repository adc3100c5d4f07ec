"""Errors that a person can act on."""


class BuildError(Exception):
    """Bad input at one field: `field` is a JSON pointer such as `/brief/power_kw`, `message` says
    what is wrong and what would be right.
    """

    def __init__(self, field: str, message: str) -> None:
        super().__init__(f"{field or '/'}: {message}")
        self.field = field
        self.message = message


class BuildErrors(Exception):
    """Every BuildError of one document at once, in `errors`."""

    def __init__(self, errors: list[BuildError]) -> None:
        super().__init__("\n".join(str(e) for e in errors))
        self.errors = errors


def wrong(field: str, message: str) -> BuildErrors:
    """One thing that is wrong, at a field."""
    return BuildErrors([BuildError(f"/{field}", message)])
