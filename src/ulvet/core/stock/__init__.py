"""Stock: what is there of materials, paints and bought parts, by a ledger whose sum it is."""
