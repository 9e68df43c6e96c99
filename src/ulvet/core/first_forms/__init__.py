"""First forms: plain solids to begin a figure with, or to build one from."""

from ulvet.core.first_forms.shapes import Form, UnusableForm, form_mesh
from ulvet.core.first_forms.steps import AddForm

__all__ = ["AddForm", "Form", "UnusableForm", "form_mesh"]
