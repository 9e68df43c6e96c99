"""Release: print-ready files with everything a stranger needs to trust them."""
