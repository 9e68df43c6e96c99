"""Files in and out. The only part of the core that touches the disk."""
