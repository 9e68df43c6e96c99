"""The demo scenario: the studio Sedgewater and its fen folk, modelled by code."""
