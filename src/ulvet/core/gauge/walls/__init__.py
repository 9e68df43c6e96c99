"""How thick walls are, and where they are thinner than the material wants."""
