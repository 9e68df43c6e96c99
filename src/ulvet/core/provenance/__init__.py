"""Provenance: whose the sources of a figure are, what it depicts, and what may be done with the result.

It explains and records. It is no legal advice.
"""
