"""What results depend on besides their inputs: the source that computes them, and the libraries it computes with.

Both are read off the source: the modules of the core that a module imports, directly or not, the data files beside
them, and the installed versions of the libraries imported there and of what those require.
"""

import hashlib
import re
import sys
from contextlib import suppress
from functools import cache
from importlib.metadata import PackageNotFoundError, distribution, distributions, requires, version
from importlib.util import find_spec
from pathlib import Path

__all__ = ["core_digest", "libraries_of", "module_digest", "modules_importing", "modules_of"]

_ROOT = Path(__file__).parent
_NAME = "ulvet.core"
_IMPORT = re.compile(
    r"^[ \t]*(?:from[ \t]+([\w.]+)[ \t]+import[ \t]+(\([^)]*\)|[^\n]*)|import[ \t]+([\w., \t]+))", re.MULTILINE
)
_REQUIRED = re.compile(r"[\w.-]+")
_LETTERS = 24
"""Of a digest, in hex: 96 bits."""


@cache
def core_digest() -> str:
    """Hex digest of all of the core and its libraries."""
    return _digest(frozenset(_files()))


@cache
def module_digest(*modules: str) -> str:
    """Hex digest of modules of the core, of everything they import there, and of their libraries."""
    return _digest(frozenset().union(*map(modules_of, modules)))


@cache
def modules_of(module: str) -> frozenset[str]:
    """A module of the core and every other that it imports, directly or not; all of them for one that is not of the
    core."""
    if module not in _files():
        return frozenset(_files())
    found, ahead = {module}, [module]
    while ahead:
        more = _imported(ahead.pop()) & _files().keys() - found
        found |= more
        ahead += more
    return frozenset(found)


def modules_importing(name: str) -> tuple[str, ...]:
    """Modules of the core that import something by its full name, sorted."""
    return tuple(sorted(module for module in _files() if name in _imported(module)))


@cache
def libraries_of(modules: frozenset[str]) -> frozenset[str]:
    """Installed distributions that modules of the core import, and what those require.

    Raises PackageNotFoundError for a library that no distribution brought.
    """
    imported = {name.split(".")[0] for module in modules for name in _imported(module)}
    ahead = [name for top in imported for name in _brought_by(top)]
    found: set[str] = set()
    while ahead:
        name = ahead.pop()
        if name not in found:
            found.add(name)
            ahead += _required_by(name)
    return frozenset(found)


@cache
def _brought_by(top: str) -> tuple[str, ...]:
    """Names of the distributions that brought what is imported as ``top``; none for Python's own, and for no module."""
    if top == "ulvet" or top in sys.stdlib_module_names or find_spec(top) is None:
        return ()
    return tuple(name for name, tops in _installed() if top in tops) or (distribution(top).name,)


@cache
def _installed() -> tuple[tuple[str, frozenset[str]], ...]:
    """Every distribution by name, with what its list of files has at the top: packages, and single modules, compiled
    ones too."""
    return tuple(
        (one.name, frozenset(re.split("[/,.]", line, maxsplit=1)[0] for line in record.splitlines()))
        for one in distributions()
        if (record := one.read_text("RECORD"))
    )


@cache
def _required_by(name: str) -> tuple[str, ...]:
    """Distributions that one requires, of those that are installed: the others this machine does not need."""
    named = [_REQUIRED.match(need) for need in requires(name) or [] if "extra ==" not in need]
    found = []
    for match in named:
        with suppress(PackageNotFoundError):
            found += [distribution(match[0]).name] if match else []
    return tuple(found)


def _digest(modules: frozenset[str]) -> str:
    digest = hashlib.sha256()
    for path in sorted({path for module in modules for path in (_files()[module], *_data_beside(_files()[module]))}):
        digest.update(path.relative_to(_ROOT).as_posix().encode() + b"\0" + path.read_bytes())
    for library in sorted(libraries_of(modules)):
        digest.update(f"{library}=={version(library)}\n".encode())
    return digest.hexdigest()[:_LETTERS]


@cache
def _files() -> dict[str, Path]:
    """Every module of the core by name."""
    found = {}
    for path in _ROOT.rglob("*.py"):
        parts = path.relative_to(_ROOT).with_suffix("").parts
        found[".".join([_NAME, *parts[: -1 if parts[-1] == "__init__" else None]])] = path
    return found


@cache
def _imported(module: str) -> frozenset[str]:
    """Names that a module imports: of modules, and of what may be modules in them."""
    names: set[str] = set()
    for where, what, plain in _IMPORT.findall(_files()[module].read_text("utf-8")):
        if where:
            names |= {where, *(f"{where}.{name}" for name in re.findall(r"\w+", what))}
        else:
            names |= set(re.findall(r"[\w.]+", plain))
    return frozenset(names)


@cache
def _data_beside(path: Path) -> tuple[Path, ...]:
    """Files beside a module that are no source: tables, fonts."""
    return tuple(p for p in path.parent.iterdir() if p.is_file() and p.suffix not in (".py", ".pyc"))
