"""Groups of runs as trees of numbers that point to one of their group (union-find), for compiled loops."""

from ulvet.core.kernels import kernel, typed

__all__ = ["join_groups", "root_of"]


@kernel(typed.int64(typed.int64[::1], typed.int64))
def root_of(parent, item):  # type: ignore[no-untyped-def]  # compiled: the signature above is its type
    """The number by which the group of an item is known; the way there is made shorter."""
    while parent[item] != item:
        parent[item] = parent[parent[item]]
        item = parent[item]
    return item


@kernel(typed.void(typed.int64[::1], typed.int64, typed.int64))
def join_groups(parent, one, other):  # type: ignore[no-untyped-def]
    """Make the groups of two items one, known by the lower number."""
    a, b = root_of(parent, one), root_of(parent, other)
    if a < b:
        parent[b] = a
    else:
        parent[a] = b
