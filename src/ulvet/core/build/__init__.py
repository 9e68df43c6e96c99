"""A recipe run in an edition and looked at by every check."""
