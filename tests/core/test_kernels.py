"""Compiled functions that Python calls are kept on disk, and no others.

One that is not kept would be compiled anew, for seconds, in each process that calls it; one that is kept for nothing is
looked up at each start. What others call is compiled into these.
"""

import ast
import subprocess
import sys
from pathlib import Path

import zeichen.core
from zeichen.core.compiled import common, counted

ROOT = Path(zeichen.core.__file__).parents[1]
HERE = Path(__file__).parent
Place = tuple[str, str]


def is_compiled(node: ast.stmt, by: tuple[str, ...] = ("counted", "uncounted")) -> bool:
    return isinstance(node, ast.FunctionDef) and any(
        ast.unparse(d).startswith(by) for d in node.decorator_list
    )


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


def test_where_references_are_not_counted_no_array_is_made_or_returned():
    # What makes one is refused by the compiler; what returns one, or calls what counts, is not.
    counted, uncounted = set(), {}
    for path in ROOT.rglob("*.py"):
        tree = ast.parse(path.read_text())
        names = {
            alias.asname or alias.name: (node.module, alias.name)
            for node in tree.body
            if isinstance(node, ast.ImportFrom)
            for alias in node.names
        }
        for node in filter(is_compiled, tree.body):
            if is_compiled(node, ("uncounted",)):
                called = {
                    call.func.id for call in ast.walk(node) if hasattr(getattr(call, "func", None), "id")
                }
                places = {names.get(name, (module_of(path), name)) for name in called}
                uncounted[module_of(path), node.name] = ast.unparse(node.returns), places
            else:
                counted.add((module_of(path), node.name))
    assert len(uncounted) > 100 and len(counted) > 50
    for place, (returned, called) in uncounted.items():
        assert "Array" not in returned, place
        assert not called & counted, place


# Pictures of every kind a maker brings, by every method, in a process of its own: what is compiled after warming up.
TRACES = """
import cv2, numpy as np
from numba.core import event
from zeichen.core.raster import Picture
from zeichen.core.methods import Method
from zeichen.core.tracing.settings import TraceSettings
from zeichen.core.tracing.trace import trace
from zeichen.core.tracing.warming import warm_up

warm_up()
k, size = 6, 220
fine = np.full((size * k, size * k, 3), 255, np.uint8)
for x, y in ((60, 60), (150, 62)):
    cv2.ellipse(fine, (x * k, y * k), (30 * k, 18 * k), 25, 0, 360, (60, 40, 30), -1)
    cv2.circle(fine, ((x + 6) * k, (y - 4) * k), 7 * k, (255, 255, 255), -1)
cv2.fillPoly(fine, [np.array([[40, 120], [110, 130], [80, 200]]) * k], (40, 60, 200))
for rows in ((120, 200), (200, 120)):
    cv2.line(fine, (120 * k, rows[0] * k), (205 * k, rows[1] * k), (30, 30, 30), 7 * k)
cv2.rectangle(fine, (150 * k, 95 * k), (200 * k, 112 * k), (40, 160, 60), -1)
crisp = cv2.resize(fine, (size, size), interpolation=cv2.INTER_AREA)
noisy = np.clip(crisp + np.random.default_rng(0).normal(0, 6, crisp.shape), 0, 255).astype(np.uint8)
kinds = {
    "crisp": crisp,
    "noisy": noisy,
    "soft": cv2.GaussianBlur(crisp, (0, 0), 1.2),
    "very soft": cv2.GaussianBlur(crisp, (0, 0), 2.6),
    "enlarged": cv2.resize(crisp, None, fx=2, fy=2, interpolation=cv2.INTER_CUBIC),
    "compressed": cv2.imdecode(cv2.imencode(".jpg", crisp, [1, 50])[1], 1),
}
solid = [{}, {"invert": True}, {"even_light": True}, {"level": 100}]
for name, rgb in kinds.items():
    for method in Method:
        for more in solid if method is Method.SOLID else [{}]:
            with event.install_recorder("numba:compile") as seen:
                trace(Picture(np.ascontiguousarray(rgb)), TraceSettings(method=method, **more))
            for _, found in seen.buffer:
                function = found.data["dispatcher"].py_func
                if found.is_start and function.__module__.startswith("zeichen"):
                    print(name, method.value, more, function.__module__, function.__name__)
"""


def test_no_maker_waits_for_a_compiler():
    run = subprocess.run(
        [sys.executable, "-c", TRACES], capture_output=True, text=True, check=True, timeout=600
    )
    assert run.stdout == ""
    # What is kept on disk by then brings no code along that puts the text of error messages together.
    kept = list(ROOT.rglob("*.nbc"))
    assert len(kept) > 100
    assert not [path.name for path in kept if b"PyUnicode_FromKindAndData" in path.read_bytes()]


def test_a_common_value_asks_for_no_function_of_its_own():
    @counted
    def doubled(value: int, twice: bool) -> int:
        return 2 * value if twice else value

    same, yes = common(3), common(True)

    @counted
    def by_common_values(value: int, twice: bool) -> int:
        return doubled(value, twice) + doubled(same, yes)

    assert by_common_values(4, False) == 10
    assert len(doubled.signatures) == 1

    @counted
    def by_numbers_written_out(value: int, twice: bool) -> int:
        return doubled(value, twice) + doubled(3, True)

    assert by_numbers_written_out(4, False) == 10
    assert len(doubled.signatures) == 2
