"""Compiled functions that Python calls are kept on disk, and no others.

One that is not kept would be compiled anew, for seconds, in each process that calls it; one that is kept for nothing is
looked up at each start. What others call is compiled into these.
"""

import ast
from pathlib import Path

import zeichen.core

ROOT = Path(zeichen.core.__file__).parents[1]
HERE = Path(__file__).parent
Place = tuple[str, str]


def is_compiled(node: ast.stmt) -> bool:
    return isinstance(node, ast.FunctionDef) and any("njit" in ast.unparse(d) for d in node.decorator_list)


def compiled_functions() -> dict[Place, bool]:
    """Each compiled function of the core, by module and name, and whether it is kept."""
    found = {}
    for path in ROOT.rglob("*.py"):
        for node in ast.parse(path.read_text()).body:
            if is_compiled(node):
                decorators = " ".join(ast.unparse(d) for d in node.decorator_list)
                found[module_of(path), node.name] = "cache=True" in decorators
    return found


def module_of(path: Path) -> str:
    parts = path.relative_to(ROOT.parent).with_suffix("").parts
    return ".".join(parts[:-1] if parts[-1] == "__init__" else parts)


def called_by_python(paths, *, own: bool) -> set[Place]:
    """What functions that are not compiled name: of their own module, imported, or of an imported module."""
    found: set[Place] = set()
    for path in paths:
        module = module_of(path) if own else ""
        tree = ast.parse(path.read_text())
        names: dict[str, Place] = {}
        for node in ast.walk(tree):
            if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("zeichen"):
                names |= {alias.asname or alias.name: (node.module, alias.name) for alias in node.names}
        for statement in tree.body:
            if is_compiled(statement):
                continue
            for node in ast.walk(statement):
                if isinstance(node, ast.Name) and isinstance(node.ctx, ast.Load):
                    found.add(names.get(node.id, (module, node.id)))
                elif isinstance(node, ast.Attribute) and isinstance(node.value, ast.Name):
                    found.add((".".join(names.get(node.value.id, ("", ""))), node.attr))
    return found


def test_what_python_calls_is_kept_and_nothing_else():
    kept = compiled_functions()
    assert len(kept) > 150
    product = called_by_python(ROOT.rglob("*.py"), own=True)
    asked = product | called_by_python(HERE.rglob("*.py"), own=False)
    assert not [place for place, keeps in kept.items() if place in product and not keeps]
    assert not [place for place, keeps in kept.items() if keeps and place not in asked]
