"""How many public functions of core say the shape of the arrays they take or return: it may only rise."""

import ast
import re
from pathlib import Path

import zeichen.core

ROOT = Path(zeichen.core.__file__).parent
# Counted when this was written. A function that says its shapes raises it; then this is raised, too.
LEAST_SAYING = 171
MOST_SILENT = 96
_SHAPE = re.compile(r"\((?:\w+|[\w ]+[+-] ?\d|\.\.\.)(?:, ?[^()]*)?,?\)|\bshape\b|\bscalar")


def array_functions() -> dict[str, bool]:
    """Public functions and methods with an array in their signature, and whether their docstring says a shape."""
    found = {}
    for path in sorted(ROOT.rglob("*.py")):
        top = ast.parse(path.read_text()).body
        methods = [each for node in top if isinstance(node, ast.ClassDef) for each in node.body]
        for node in (*top, *methods):
            if not isinstance(node, ast.FunctionDef) or node.name.startswith("_"):
                continue
            asked = [each.annotation for each in (*node.args.args, *node.args.kwonlyargs)]
            signature = " ".join(ast.unparse(each) for each in (*asked, node.returns) if each is not None)
            # A spline or another named value says its shapes itself.
            if re.search(r"\b(?:Float|Any|Bool|Bytes8)Array\b", signature):
                text = ast.get_docstring(node) or ""
                found[f"{path.relative_to(ROOT)}: {node.name}"] = bool(_SHAPE.search(text))
    return found


def test_arrays_have_shapes_that_are_said():
    functions = array_functions()
    saying = sum(functions.values())
    silent = sorted(name for name, says in functions.items() if not says)
    assert saying >= LEAST_SAYING and len(silent) <= MOST_SILENT, "\n".join(silent)


def test_every_public_function_has_a_docstring():
    missing = [
        f"{path.relative_to(ROOT)}: {node.name}"
        for path in sorted(ROOT.rglob("*.py"))
        for node in ast.parse(path.read_text()).body
        if isinstance(node, ast.FunctionDef) and not node.name.startswith("_") and not ast.get_docstring(node)
    ]
    assert missing == []
