"""What results depend on is read off the source, so that nothing that shapes them is forgotten."""

import ast
import re
import subprocess
import sys
from pathlib import Path

from ulvet.core.digest import libraries_of, module_digest, modules_importing, modules_of
from ulvet.core.recipe.union import step_kinds


def test_a_step_depends_on_the_modules_and_libraries_that_do_it_and_on_no_other_station():
    mends, says_whose = (step_kinds()[kind].__module__ for kind in ("mend-whole", "credit"))
    assert {"ulvet.core.geometry.solids", "ulvet.core.geometry.fairing", "ulvet.core.geometry.mesh"} <= modules_of(
        mends
    )
    assert "manifold3d" in libraries_of(modules_of(mends)), "the kernel that unites shells"
    assert {"numpy", "llvmlite"} <= libraries_of(modules_of(mends)), "and what the libraries stand on"
    assert not any(".mend." in module or ".stand." in module for module in modules_of(says_whose))
    assert module_digest(mends) != module_digest(says_whose)


def test_every_library_that_the_core_imports_is_found_however_it_is_imported():
    core = Path(__file__).parents[2] / "src" / "ulvet" / "core"
    nodes = [node for path in core.rglob("*.py") for node in ast.walk(ast.parse(path.read_text("utf-8")))]
    names = [alias.name for node in nodes if isinstance(node, ast.Import) for alias in node.names]
    names += [node.module or "" for node in nodes if isinstance(node, ast.ImportFrom)]
    tops = {name.split(".")[0] for name in names}
    outside = {top for top in tops if top not in sys.stdlib_module_names and top != "ulvet"}
    called = {"PIL": "pillow", "igl": "libigl", "skimage": "scikit-image", "gpytoolbox_bindings": "gpytoolbox",
              "colour": "colour-science"}  # fmt: skip
    found = {name.replace("_", "-").lower() for name in libraries_of(frozenset(modules_of_all()))}
    assert {called.get(top, top).replace("_", "-").lower() for top in outside} <= found
    assert len(outside) > 12


def modules_of_all():
    core = Path(__file__).parents[2] / "src" / "ulvet" / "core"
    for path in core.rglob("*.py"):
        name = ".".join(["ulvet.core", *path.relative_to(core).with_suffix("").parts])
        yield from modules_of(name.removesuffix(".__init__"))


def test_every_module_with_a_kernel_is_found():
    core = Path(__file__).parents[2] / "src" / "ulvet" / "core"
    written = [path for path in core.rglob("*.py") if re.search(r"^@kernel\(", path.read_text("utf-8"), re.MULTILINE)]
    assert len(modules_importing("ulvet.core.kernels.kernel")) == len(written) > 5


def test_kernels_are_kept_outside_the_source_though_numba_was_imported_first():
    asked = "import numba; import ulvet.core.kernels as k; print(numba.config.CACHE_DIR); print(k.kernel_folder())"
    said = subprocess.run([sys.executable, "-c", asked], capture_output=True, text=True, check=True).stdout.split()
    assert said[0] == said[1]
    assert "kernels-" in said[0] and not said[0].startswith(str(Path(__file__).parents[2] / "src"))
