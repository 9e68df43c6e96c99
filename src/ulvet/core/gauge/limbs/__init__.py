"""What sticks out of a figure, how much it bears, and taking it off."""
