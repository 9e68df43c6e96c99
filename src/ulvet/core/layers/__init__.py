"""Layers: what the printer will see, layer by layer."""
