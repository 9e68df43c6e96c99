"""The one error of the readers."""

__all__ = ["UnreadableFile"]


class UnreadableFile(ValueError):
    """A file that cannot be used; its text says what is wrong with it and what to do."""
