"""The recipe: how a figure is made, as an ordered list of typed steps."""
