"""What a recipe reads from outside besides meshes: scans and pictures."""
