"""First forms: plain solids to begin a figure with, or to build one from."""
