"""Foreign objects: things a figure must mate with, or is sized by. They are drawn and never exported."""
