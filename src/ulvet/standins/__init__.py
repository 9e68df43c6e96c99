"""Simulated devices and services, so that everything can be tried without them."""
