"""Every number with a name says what it is, in which unit, and where it comes from."""

import ast
import re
from pathlib import Path

import ulvet

SOURCE = Path(ulvet.__file__).parent
CONSTANT = re.compile(r"_?[A-Z][A-Z0-9_]*")


def _is_number(value: ast.expr) -> bool:
    """Whether an expression is made of numbers alone, as 1 << 20 and np.cos(np.radians(38.0)) are."""
    nodes = list(ast.walk(value))
    plain = [node.value for node in nodes if isinstance(node, ast.Constant)]
    return (
        bool(plain)
        and all(type(one) in (int, float) for one in plain)
        and not any(
            isinstance(node, ast.Dict | ast.List | ast.Set | ast.ListComp | ast.Lambda | ast.Subscript)
            for node in nodes
        )
    )


def _undocumented(text: str) -> list[str]:
    lines, body = text.splitlines(), ast.parse(text).body
    found = []
    for node, after in zip(body, [*body[1:], None], strict=True):
        if not isinstance(node, ast.Assign | ast.AnnAssign) or node.value is None or not _is_number(node.value):
            continue
        targets = node.targets if isinstance(node, ast.Assign) else [node.target]
        names = [one.id for target in targets for one in ast.walk(target) if isinstance(one, ast.Name)]
        says = (
            isinstance(after, ast.Expr) and isinstance(after.value, ast.Constant) and isinstance(after.value.value, str)
        )
        if all(map(CONSTANT.fullmatch, names)) and not says and "#" not in lines[node.lineno - 1]:
            found += names
    return found


def test_an_undocumented_number_is_noticed():
    assert _undocumented("_LEAST = 3\nMOST, _FAR = 1 << 4, float(2)\n_TOLD = 1\n'''Metres.'''\n_AT = 2  # mm\n") == [
        "_LEAST", "MOST", "_FAR",
    ]  # fmt: skip


def test_every_numeric_constant_is_documented():
    found = {path: names for path in SOURCE.rglob("*.py") if (names := _undocumented(path.read_text("utf-8")))}
    assert not found
