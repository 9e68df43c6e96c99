"""Finish: what is done to a print until it is done, and colours that can be made again."""
