"""The user's printers and materials, and the edition a figure is made for."""
