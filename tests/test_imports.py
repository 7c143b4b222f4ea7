"""Who may import whom."""

from __future__ import annotations

import ast
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1] / "zuschnitt"


ROOMS = (
    ("record", "errors", "progress", "tolerances", "wording", "lazy", "by_file", "expressions", "units"),
    ("geometry",),
    ("materials",),
    ("mesh",),
    ("plane",),
    ("flatten",),
    ("form", "correspondence"),
    ("developable",),
    ("form_curves",),
    ("panels",),
    ("develop",),
    ("reliefs",),
    ("carry",),
    ("cutting",),
    ("ribs",),
    ("nesting",),
    ("shop",),
    ("kernel",),
    ("files",),
    ("solids",),
    ("sheet",),
    ("results",),
    ("parameters",),
    ("figures",),
    ("operations",),
    ("job",),
    ("batch",),
)
"""The rooms of core, and the files that stand beside them: each imports from its own line and from those above alone."""


def imports(path: Path, types: bool = True) -> set[str]:
    """Modules that a file names in its imports, relative ones resolved; with those that only types are taken from."""
    package = ".".join(path.relative_to(ROOT.parent).with_suffix("").parts[:-1])
    tree = ast.parse(path.read_text())
    for_types = {
        id(inner)
        for node in ast.walk(tree)
        if isinstance(node, ast.If) and isinstance(node.test, ast.Name) and node.test.id == "TYPE_CHECKING"
        for inner in ast.walk(node)
    }
    found = set()
    for node in ast.walk(tree):
        if not types and id(node) in for_types:
            continue
        if isinstance(node, ast.Import):
            found.update(alias.name for alias in node.names)
        elif isinstance(node, ast.ImportFrom):
            base = package.rsplit(".", node.level - 1)[0] if node.level > 1 else package if node.level else ""
            module = ".".join(filter(None, [base, node.module]))
            found.add(module)
            found.update(f"{module}.{alias.name}" for alias in node.names)
    return found


FILES = {str(path.relative_to(ROOT)): path for path in sorted(ROOT.rglob("*.py"))}


@pytest.mark.parametrize("name", [n for n in FILES if n.startswith(("core", "engine", "cli", "demo"))])
def test_core_engine_and_command_line_know_no_qt(name):
    found = imports(FILES[name])
    assert not any(module.split(".")[0] in ("PyQt6", "vtkmodules") for module in found)
    if name.startswith("core"):
        assert not any(module.startswith(("zuschnitt.window", "zuschnitt.engine", "zuschnitt.cli")) for module in found)


@pytest.mark.parametrize("name", [n for n in FILES if n.startswith("window")])
def test_the_window_knows_no_kernel(name):
    found = imports(FILES[name])
    kernel = ("OCP", "zuschnitt.core.kernel", "zuschnitt.core.solids")
    assert not any(module.startswith(kernel) for module in found)


@pytest.mark.parametrize("name", [n for n in FILES if n.startswith("standins")])
def test_the_standins_know_nothing_of_the_program(name):
    allowed = ("zuschnitt.standins",)
    assert all(m.startswith(allowed) for m in imports(FILES[name]) if m.startswith("zuschnitt"))


def test_the_kernel_is_in_two_rooms():
    users = {name for name, path in FILES.items() if any(m.split(".")[0] == "OCP" for m in imports(path))}
    assert {str(Path(name).parent) for name in users} == {"core/kernel", "core/solids"}


def test_every_room_of_core_has_its_place():
    there = {path.stem for path in (ROOT / "core").iterdir() if path.suffix == ".py" or (path / "__init__.py").exists()}
    assert there - {"__init__"} == {room for line in ROOMS for room in line}


@pytest.mark.parametrize("name", [n for n in FILES if n.startswith("core/") and n != "core/__init__.py"])
def test_no_room_of_core_imports_from_one_that_builds_on_it(name):
    floor = {room: k for k, line in enumerate(ROOMS) for room in line}
    mine = floor[Path(name).relative_to("core").with_suffix("").parts[0]]
    taken = {m.split(".")[2] for m in imports(FILES[name], types=False) if m.startswith("zuschnitt.core.")}
    assert not {room for room in taken if floor.get(room, -1) > mine}


def test_a_started_window_has_imported_nothing_that_computes():
    """No kernel, and nothing slow: operations import what computes where they run."""
    import subprocess
    import sys

    code = (
        "import sys; import zuschnitt.window.main_window, zuschnitt.window.start; "
        "from zuschnitt.core.operations.registry import entries; entries(); "
        "print([m for m in sys.modules if m.split('.')[0] in ('OCP', 'scipy', 'ezdxf', 'trimesh', 'reportlab')])"
    )
    said = subprocess.run([sys.executable, "-c", code], cwd=ROOT.parent, check=True, capture_output=True, text=True)
    assert said.stdout.strip() == "[]"


def test_what_a_window_reads_back_needs_nothing_that_computes():
    """The demo opened again shows kept results at once: what they hold stands in files that import nothing slow."""
    import subprocess
    import sys

    held = (
        "carry.carried carry.tracing correspondence develop.blank develop.compared developable.layers form.charts "
        "form.form form.made_body geometry.ruled_flat nesting.sheet panels.panel plane.artwork reliefs.relief "
        "ribs.ribs sheet.making sheet.verdicts shop.printed"
    )
    names = [*(f"zuschnitt.core.{name}" for name in held.split()), "zuschnitt.standins.laser.machine"]
    names += ["zuschnitt.standins.press.brake", "zuschnitt.standins.press.flat"]
    code = (
        "import sys, importlib; [importlib.import_module(name) for name in sys.argv[1:]]; "
        "slow = ('OCP', 'scipy', 'ezdxf', 'trimesh', 'manifold3d', 'svgelements', 'fontTools'); "
        "print([m for m in sys.modules if m.split('.')[0] in slow])"
    )
    call = [sys.executable, "-c", code, *names]
    said = subprocess.run(call, cwd=ROOT.parent, check=True, capture_output=True, text=True)
    assert said.stdout.strip() == "[]"


def test_an_operation_stands_in_the_file_of_its_name():
    """So that a command imports those it needs, and no other."""
    from zuschnitt.core.operations.registry import entries

    assert all(known.type.__module__.rpartition(".")[2] == key for key, known in entries().items())


def test_no_operation_is_named_in_the_window():
    from zuschnitt.core.operations.registry import entries

    quoted = {f'"{key}"' for key in entries()} | {f"'{key}'" for key in entries()}
    # the pictures that are taken of the window have names of their own
    paths = sorted(path for path in (ROOT / "window").rglob("*.py") if path.name != "shots.py")
    assert len(paths) > 40
    for path in paths:
        text = path.read_text()
        assert not [word for word in quoted if word in text], path
