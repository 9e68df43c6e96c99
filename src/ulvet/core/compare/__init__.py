"""What became of a figure from one version to another."""
