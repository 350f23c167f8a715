"""The house: packages have faces, templates look down only, kinds are looked up, and a name is one thing.

Row classes end in `Row` where the core has the word; so no class name stands for two things.
"""

import ast
import importlib
import re
from collections.abc import Iterator
from pathlib import Path
from unittest import TestCase

from django.test import SimpleTestCase

from recensor.core.circuit import KINDS
from recensor.core.solving import LAWS
from recensor.drawing.schematic import OFF, SYMBOLS

ROOT = Path(__file__).resolve().parents[2] / "recensor"
PACKAGES = sorted(path.parent.name for path in (ROOT / "core").glob("*/__init__.py"))

# The apps whose addresses a template may reverse: its own, those beside it, and those below.
FLOORS = (
    ("people",),
    ("jobs",),
    ("meters",),
    ("kits",),
    ("reference",),
    ("experiments",),
    ("runs",),
    ("bench", "board_page", "run_pages"),
    ("reports",),
    ("transfer",),
    ("site",),
)
HEIGHT = {app: height for height, apps in enumerate(FLOORS) for app in apps}

# File names that Django gives, in every app.
USUAL_FILES = {"__init__", "admin", "apps", "forms", "models", "rules", "urls", "views", "queries", "services"}


def modules() -> Iterator[tuple[str, ast.Module]]:
    """Every module of the product, by its dotted name."""
    for file in ROOT.rglob("*.py"):
        name = ".".join(("recensor", *file.relative_to(ROOT).with_suffix("").parts)).removesuffix(".__init__")
        yield name, ast.parse(file.read_text(encoding="utf-8"))


def imported(tree: ast.Module) -> Iterator[tuple[str, str]]:
    """Every ``from module import name``."""
    for node in ast.walk(tree):
        if isinstance(node, ast.ImportFrom) and node.module:
            yield from ((node.module, alias.name) for alias in node.names)


class Faces(TestCase):
    def test_every_package_of_the_core_says_what_it_is_and_what_others_may_use(self) -> None:
        for package in PACKAGES:
            with self.subTest(package):
                face = importlib.import_module(f"recensor.core.{package}")
                self.assertTrue(face.__doc__)
                for name in face.__all__:
                    self.assertTrue(hasattr(face, name), name)

    def test_nobody_outside_a_package_takes_what_its_face_does_not_name(self) -> None:
        for name, tree in modules():
            for module, taken in imported(tree):
                match = re.fullmatch(r"recensor\.core\.(\w+)((?:\.\w+)*)", module)
                if not match or match[1] not in PACKAGES or name.startswith(f"recensor.core.{match[1]}"):
                    continue
                face = importlib.import_module(f"recensor.core.{match[1]}")
                first = match[2].split(".")[1] if match[2] else taken
                self.assertIn(first, face.__all__, f"{name} takes {taken} from {module}")


class Names(TestCase):
    def test_no_class_name_stands_for_two_things(self) -> None:
        found: dict[str, list[str]] = {}
        for name, tree in modules():
            for node in tree.body:
                if isinstance(node, ast.ClassDef) and node.name not in ("Command", "Migration"):
                    found.setdefault(node.name, []).append(name)
        self.assertEqual({name: places for name, places in found.items() if len(places) > 1}, {})

    def test_no_file_name_is_in_more_than_two_packages(self) -> None:
        found: dict[str, list[str]] = {}
        for name, _ in modules():
            package, _, file = name.rpartition(".")
            if (
                file not in USUAL_FILES
                and ".migrations." not in name
                and (ROOT.parent / name.replace(".", "/")).is_dir() is False
            ):
                found.setdefault(file, []).append(package)
        self.assertEqual({name: places for name, places in found.items() if len(places) > 2}, {})


class Kinds(SimpleTestCase):
    def test_every_kind_has_a_law_and_a_symbol_that_is_a_file(self) -> None:
        self.assertEqual(set(LAWS), set(KINDS.values()))
        self.assertEqual(set(SYMBOLS), set(KINDS.values()))
        for look in (*SYMBOLS.values(), *OFF.values()):
            self.assertTrue((ROOT / "drawing" / "templates" / look.template).is_file(), look.template)

    def test_no_kind_is_compared(self) -> None:
        names = {kind.word.upper().replace(" ", "_") for kind in KINDS.values()}
        for name, tree in modules():
            for node in ast.walk(tree):
                if isinstance(node, ast.Compare):
                    sides = {side.id for side in (node.left, *node.comparators) if isinstance(side, ast.Name)}
                    self.assertFalse(sides & names, f"{name}:{node.lineno}")


class Templates(TestCase):
    def test_no_template_reverses_an_address_of_an_app_above_its_own(self) -> None:
        for file in ROOT.glob("*/templates/**/*"):
            if not file.is_file():
                continue
            app = file.relative_to(ROOT).parts[0]
            height = HEIGHT.get(app, -1)
            for named in re.findall(r"{%\s*url\s+['\"](\w+):", file.read_text(encoding="utf-8")):
                self.assertLessEqual(HEIGHT[named], height, f"{file} reverses {named}:")


class Styles(TestCase):
    def test_a_page_has_a_sheet_of_its_own_and_loads_no_other_pages(self) -> None:
        css = ROOT / "site" / "static" / "css"
        linked: dict[str, list[Path]] = {str(file.relative_to(css)): [] for file in css.rglob("*.css")}
        for file in ROOT.glob("*/templates/**/*.html"):
            for name in re.findall(r"'css/([\w/]+\.css)'", file.read_text(encoding="utf-8")):
                linked[name].append(file)
        for name, files in linked.items():
            with self.subTest(name):
                self.assertTrue(files, "nothing loads it")
                if name.startswith("pages/"):
                    self.assertEqual([file.stem for file in files], [Path(name).stem])
