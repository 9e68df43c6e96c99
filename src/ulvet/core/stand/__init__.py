"""Stand: how a figure is turned for the printer, and held."""
