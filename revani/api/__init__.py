"""The web process: one router per record kind."""

import revani.core.documents  # noqa: F401
from revani.core.documents.base import build_documents

# The framework looks into models while routes are declared.
build_documents()
