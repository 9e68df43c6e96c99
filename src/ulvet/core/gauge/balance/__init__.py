"""Whether a figure stands, and whether its faces are level."""
