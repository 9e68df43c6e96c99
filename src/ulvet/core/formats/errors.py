"""What readers and writers of files refuse."""

__all__ = ["UnreadableFile", "UnwritableFile"]


class UnreadableFile(ValueError):
    """A file that cannot be used; its text says what is wrong with it and what to do."""


class UnwritableFile(ValueError):
    """A part that a format does not carry; its text is for the user."""
