"""The tree explains the system: small folders, short files, documented rooms, mirrored tests."""

import re
import tomllib
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src/lean_parcel"
MAX_MODULES, MAX_LINES = 12, 400
FOLDERS = sorted({path.parent for path in SOURCE.rglob("*.py")})
PACKAGES = [folder for folder in FOLDERS if folder not in (SOURCE, SOURCE / "web/static")]
#: What generates itself, or only holds data.
FRONT_END = [
    path
    for path in sorted((ROOT / "frontend/src").rglob("*.ts*"))
    if not path.name.endswith(".gen.ts")
]


@pytest.mark.parametrize("folder", FOLDERS, ids=lambda folder: str(folder.relative_to(ROOT)))
def test_no_folder_has_more_than_a_dozen_modules(folder: Path) -> None:
    modules = [path for path in folder.glob("*.py") if path.name != "__init__.py"]
    assert len(modules) <= MAX_MODULES


def test_no_folder_of_the_page_has_more_than_a_dozen_files() -> None:
    for folder in {path.parent for path in FRONT_END}:
        assert len([path for path in FRONT_END if path.parent == folder]) <= MAX_MODULES, folder


def test_no_file_is_long() -> None:
    for path in [*SOURCE.rglob("*.py"), *FRONT_END]:
        assert len(path.read_text().splitlines()) <= MAX_LINES, path


@pytest.mark.parametrize("package", PACKAGES, ids=lambda package: str(package.relative_to(ROOT)))
def test_every_package_says_what_it_holds(package: Path) -> None:
    assert (package / "__init__.py").read_text().startswith('"""')


def core_order() -> list[str]:
    """The packages of the core as the import rules have them, the lowest first."""
    rules = tomllib.loads((ROOT / "pyproject.toml").read_text())["tool"]["importlinter"]
    (contract,) = [c for c in rules["contracts"] if c.get("containers") == ["lean_parcel.core"]]
    return [layer for layer in reversed(contract["layers"]) if (SOURCE / "core" / layer).is_dir()]


def test_the_document_shows_the_core_in_the_order_of_its_imports() -> None:
    document = (ROOT / "docs/architecture.md").read_text()
    places = [document.index(f"  {package}/") for package in core_order()]
    assert places == sorted(places)


@pytest.mark.parametrize("name", ["CONTRIBUTING.md", "docs/glossary.md"])
def test_every_room_that_a_document_names_is_there(name: str) -> None:
    named = re.findall(
        r"`((?:core|work|store|web|cli|demo|tests|docs|frontend|benchmarks)/[\w./-]+)`",
        (ROOT / name).read_text(),
    )
    assert len(named) > 20
    missing = [each for each in named if not any((at / each).exists() for at in (SOURCE, ROOT))]
    assert not missing


def test_no_test_module_is_imported_by_another() -> None:
    """What several use has a module of its own, so that each can be read and run alone."""
    for path in (ROOT / "tests").rglob("*.py"):
        imported = re.findall(r"^from tests\S*\.test_\w+ import", path.read_text(), re.MULTILINE)
        assert not imported, path


def test_every_test_in_the_browser_is_marked_as_one() -> None:
    for path in (ROOT / "tests/e2e").glob("test_*.py"):
        assert "pytestmark = pytest.mark.e2e" in path.read_text(), path


@pytest.mark.parametrize("layer", ["core", "work"])
def test_tests_mirror_the_packages(layer: str) -> None:
    packages = {path.name for path in (SOURCE / layer).iterdir() if (path / "__init__.py").exists()}
    tested = {path.name for path in (ROOT / "tests" / layer).iterdir() if path.is_dir()}
    assert tested - {"__pycache__"} == packages


def test_every_fault_that_was_chosen_by_hand_can_still_be_planted() -> None:
    faults = tomllib.loads((ROOT / "tools/mutants/chosen.toml").read_text())["fault"]
    assert len(faults) > 60
    for fault in faults:
        code = (SOURCE / fault["module"]).read_text()
        assert code.count(fault["was"]) == 1, fault
