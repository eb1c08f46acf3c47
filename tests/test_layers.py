"""Imports point one way: web, cli -> demo -> work -> store, core."""

import ast
from pathlib import Path

import lean_parcel

ROOT = Path(lean_parcel.__file__).parent
MAY_IMPORT = {
    "core": {"core"},
    "store": {"store", "core"},
    "work": {"work", "store", "core"},
    "demo": {"demo", "work", "core"},
    "web": {"web", "work", "store", "demo", "core"},
    "cli": {"cli", "web", "work", "demo", "core"},
}
#: What the core must know nothing of.
FOREIGN_TO_CORE = {
    "flask",
    "sqlite3",
    "click",
    "rich",
    "pydantic",
    "waitress",
    "pebble",
    "time",
    "os",
}


def imports(path: Path) -> set[str]:
    """Full names of all modules that a file imports."""
    names: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            names |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom):
            names |= {f"{node.module}.{alias.name}" for alias in node.names} | {str(node.module)}
    return names


def test_layers_import_only_what_lies_below_them() -> None:
    for layer, allowed in MAY_IMPORT.items():
        for path in (ROOT / layer).rglob("*.py"):
            own = {n.split(".")[1] for n in imports(path) if n.startswith("lean_parcel.")}
            below = {name for name in own if (ROOT / name).is_dir()}
            assert below <= allowed, f"{path} imports {below - allowed}"


def test_the_core_knows_no_interface_database_clock_or_environment() -> None:
    for path in (ROOT / "core").rglob("*.py"):
        outside = {name.split(".")[0] for name in imports(path)}
        assert not outside & FOREIGN_TO_CORE, path
