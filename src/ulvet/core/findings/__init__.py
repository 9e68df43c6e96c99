"""What checks find, how they run, and the changes their remedies make."""
