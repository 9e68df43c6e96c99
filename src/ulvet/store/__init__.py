"""What lasts: the database of figures and revisions, and blobs addressed by hash."""
