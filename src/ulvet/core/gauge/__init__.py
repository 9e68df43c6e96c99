"""Gauge: what is too thin at print size, in the chosen material."""
