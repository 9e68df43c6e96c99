"""Provenance: whose the sources of a figure are, what it depicts, and what may be done with the result.

It explains and records. It is no legal advice.
"""

from ulvet.core.provenance.check import BLOCKING, check_provenance
from ulvet.core.provenance.inherited import Because, Inherited, inherited_terms
from ulvet.core.provenance.terms import NO_ADVICE, TERMS, Answer, Terms, terms_named

__all__ = [
    "BLOCKING",
    "NO_ADVICE",
    "TERMS",
    "Answer",
    "Because",
    "Inherited",
    "Terms",
    "check_provenance",
    "inherited_terms",
    "terms_named",
]
