"""Sentences are data: each has its kind in one table, and none is put together out of pieces."""

import ast
import re
import string
from collections.abc import Iterator
from pathlib import Path
from unittest import TestCase

from recensor.core.sentences import ENGLISH, instruction, say, several

CORE = Path(__file__).resolve().parents[2] / "recensor" / "core"

# What is written for somebody who programs, or as data: notation, names of generated circuits, titles of examples.
NOT_SENTENCES = ("sentences", "examples", "simulation")

# What is raised where a program is wrong, never where a person is.
PROGRAMMERS = {"ValueError", "TypeError", "AssertionError", "KeyError", "LookupError"}

# Names that an edit gives to what it makes: data from then on.
GIVEN_NAMES = {"line of {}", "line of {} in {}"}

# Two words beside each other, which only a sentence has.
_WORDS = re.compile(r"[A-Za-z’']{2,}[,;:]? +[A-Za-z“]{2,}")


def texts(tree: ast.Module) -> Iterator[tuple[ast.AST, str, list[ast.AST]]]:
    """Every text in a module that holds values or ends as a sentence does, and the nodes around it, innermost first."""
    around: dict[int, list[ast.AST]] = {}

    def walk(node: ast.AST, above: list[ast.AST]) -> None:
        around[id(node)] = above
        for child in ast.iter_child_nodes(node):
            walk(child, [node, *above])

    walk(tree, [])
    docstrings = {
        id(node.body[0].value)
        for node in ast.walk(tree)
        if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef) and isinstance(node.body[0], ast.Expr)
    }
    for node in ast.walk(tree):
        is_text = isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in docstrings
        if is_text and node.value.endswith((".", "?", "!")):
            yield node, node.value, around[id(node)]
        if isinstance(node, ast.JoinedStr) and not any(isinstance(a, ast.JoinedStr) for a in around[id(node)]):
            text = "".join(part.value if isinstance(part, ast.Constant) else "{}" for part in node.values)
            yield node, text, around[id(node)]


def is_for_programmers(above: list[ast.AST]) -> bool:
    """Whether it stands in an error that only a wrong program raises."""
    return any(isinstance(a, ast.Call) and isinstance(a.func, ast.Name) and a.func.id in PROGRAMMERS for a in above)


class Sentences(TestCase):
    def modules(self) -> Iterator[tuple[str, ast.Module]]:
        for file in sorted(CORE.rglob("*.py")):
            if file.relative_to(CORE).parts[0].removesuffix(".py") not in NOT_SENTENCES:
                yield str(file.relative_to(CORE)), ast.parse(file.read_text(encoding="utf-8"))

    def test_no_sentence_is_written_where_it_is_said(self) -> None:
        for name, tree in self.modules():
            for node, text, above in texts(tree):
                if not is_for_programmers(above) and text not in GIVEN_NAMES:
                    self.assertIsNone(_WORDS.search(text), f"{name}:{node.lineno}: {text}")

    def test_none_is_put_together_out_of_pieces(self) -> None:
        for name, tree in self.modules():
            for node in ast.walk(tree):
                sides = (
                    [node.left, node.right]
                    if isinstance(node, ast.BinOp) and isinstance(node.op, ast.Add)
                    else [node.value]
                    if isinstance(node, ast.AugAssign)
                    else []
                )
                for side in sides:
                    is_sentence = (
                        isinstance(side, ast.Call) and isinstance(side.func, ast.Name) and side.func.id == "say"
                    )
                    words = side.value if isinstance(side, ast.Constant) and isinstance(side.value, str) else ""
                    self.assertFalse(is_sentence or re.search(r"[a-z]{2,}", words), f"{name}:{node.lineno}")

    def kinds_said(self) -> tuple[set[str], list[str]]:
        """Kinds as they are written, and patterns of those that are chosen by what differs."""
        written, chosen = set(), []
        for _, tree in self.modules():
            for node in ast.walk(tree):
                if isinstance(node, ast.Constant) and isinstance(node.value, str):
                    written.add(node.value)
                elif isinstance(node, ast.JoinedStr):
                    parts = [part.value if isinstance(part, ast.Constant) else "" for part in node.values]
                    if re.fullmatch(r"[a-z_.]*_[a-z_.]*|[a-z]+\.", "".join(map(str, parts))):
                        chosen.append(".+".join(re.escape(str(part)) for part in parts).replace(".+.+", ".+"))
        return written, chosen

    def test_every_kind_is_whole_and_somebody_says_it(self) -> None:
        written, chosen = self.kinds_said()
        for kind, words in ENGLISH.items():
            with self.subTest(kind):
                for text in (words,) if isinstance(words, str) else words:
                    self.assertRegex(text, r"^[^\s,;:].*[^\s,;:]$")
                    for _, field, _, _ in string.Formatter().parse(text):
                        self.assertRegex(field or "x", r"^[a-z_0-9]+$")
                self.assertTrue(kind in written or any(re.fullmatch(pattern, kind) for pattern in chosen))

    def test_whoever_says_a_kind_gives_all_its_values(self) -> None:
        for name, tree in self.modules():
            for node in ast.walk(tree):
                if not (isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "say"):
                    continue
                kind, given = node.args[0], {keyword.arg for keyword in node.keywords}
                if isinstance(kind, ast.Constant) and None not in given:
                    words = ENGLISH[str(kind.value)]
                    asked = set() if isinstance(words, str) else {"count"}
                    for text in (words,) if isinstance(words, str) else words:
                        asked |= {field for _, field, _, _ in string.Formatter().parse(text) if field}
                    with self.subTest(f"{name}:{node.lineno}"):
                        self.assertLessEqual(asked, given, kind.value)

    def test_what_is_said_comes_apart_again(self) -> None:
        one, many = (say("faults.out", count=count, of=3, words="loops") for count in (1, 2))
        self.assertEqual((one, many), ("1 of 3 loops is out", "2 of 3 loops are out"))
        both = several(one, "", many)
        self.assertEqual((both, list(both.values.values())), (f"{one} {many}", [one, many]))
        acts = instruction(say("plan.power_off"), say("plan.connect_supply"))
        self.assertEqual(acts, "Power off; connect the supply.")
        self.assertEqual([act.kind for act in acts.values.values()], ["plan.power_off", "plan.connect_supply"])
