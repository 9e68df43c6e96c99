"""Detail that will not show on the print."""
