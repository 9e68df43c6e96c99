"""Release: print-ready files with everything a stranger needs to trust them."""

from ulvet.core.release.cautions import cautions_for
from ulvet.core.release.package import ReleaseFile, release_files, zip_bytes

__all__ = ["ReleaseFile", "cautions_for", "release_files", "zip_bytes"]
