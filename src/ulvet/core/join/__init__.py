"""Join: two solids made one, exactly or with a round of given radius, measured before and after."""
