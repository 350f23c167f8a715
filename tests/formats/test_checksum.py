"""The checksum of a document, by the words of docs/run-document.md, and what ``recensor check`` says of signatures."""

import hashlib
import json
import tempfile
from unittest import TestCase

from recensor.formats.documents import run_document
from recensor.formats.documents.checksum import checksum, printed
from recensor.formats.documents.reader import DocumentError
from tests.formats.test_run_document import EXAMPLE, judged


def by_hand(tree: dict) -> str:
    """The words once more, in other ones."""
    signed = sorted((key, value) for key, value in tree.items() if key != "signed")
    text = "{" + ",".join(f"{json.dumps(k)}:{dumped(v)}" for k, v in signed) + "}"
    return hashlib.sha256(text.encode("utf-8")).hexdigest()


def dumped(value: object) -> str:
    return json.dumps(value, sort_keys=True, separators=(",", ":"), ensure_ascii=False)


class Checksum(TestCase):
    def setUp(self) -> None:
        self.tree = json.loads(EXAMPLE.read_text())
        self.tree["notes"] = "Ω und ½, wie gelesen"

    def signed(self, digits: str) -> dict:
        return {**self.tree, "signed": [{"by": "bench-1", "as": "performer", "checksum": digits}]}

    def checked(self, tree: dict) -> tuple[int, str]:
        with tempfile.NamedTemporaryFile("w", suffix=".run.json", encoding="utf-8") as file:
            file.write(json.dumps(tree, ensure_ascii=False, indent=3))
            file.flush()
            done = judged(file.name, command="check")
        return done.returncode, (done.stdout + done.stderr).decode()

    def test_it_is_of_the_data_whatever_their_order_and_blanks_and_of_no_signature(self) -> None:
        turned = dict(reversed(self.tree.items()))
        self.assertEqual(checksum(self.tree), by_hand(self.tree))
        self.assertEqual(checksum(turned), checksum(self.tree))
        self.assertEqual(checksum(self.signed("0" * 64)), checksum(self.tree))
        self.assertRegex(printed(checksum(self.tree)), r"^([0-9a-f]{4} ){7}[0-9a-f]{4}$")

    def test_a_signature_of_these_data_a_changed_digit_and_none(self) -> None:
        signed = self.signed(checksum(self.tree))
        self.assertEqual(self.checked(signed)[0], 0)
        self.assertIn("bench-1, performer: of these data", self.checked(signed)[1])
        signed["readings"][0]["value"] = "1.488k"
        status, said = self.checked(signed)
        self.assertEqual((status, "OF OTHER DATA" in said), (1, True))
        self.assertIn("not signed", self.checked(self.tree)[1])
        self.assertEqual(self.checked({"format": "recensor.run"})[0], 2)
        self.assertEqual(judged("/no/such/file", command="check").returncode, 2)

    def test_what_a_run_says_beside_its_readings_comes_back(self) -> None:
        history = [{"text": "R2 corrected", "by": "bench-1", "time": "2026-03-01T10:15:00+00:00"}]
        tree = {**self.signed("a" * 64), "conclusion": "It *divides*.", "history": history}
        run = run_document.from_tree(tree)
        self.assertEqual((run.notes, run.conclusion), (tree["notes"], "It *divides*."))
        again = run_document.to_tree(run)
        self.assertEqual({key: again[key] for key in ("notes", "signed", "history")},
                         {key: tree[key] for key in ("notes", "signed", "history")})  # fmt: skip
        self.assertEqual(run_document.from_tree(again), run)
        for key, value, place in [
            ("notes", "x" * 20_001, "notes: is longer"),
            ("conclusion", 4, "conclusion: "),
            ("signed", [{"by": "b", "as": "witness", "checksum": "0" * 64}], "signed[0].as: "),
            ("signed", [{"by": "b", "as": "reviewer", "checksum": "12"}], "signed[0].checksum: "),
            ("history", [{"by": "b"}], "history[0].text: is missing"),
        ]:
            with self.subTest(place), self.assertRaises(DocumentError) as caught:
                run_document.from_tree({**self.tree, key: value})
            self.assertTrue(str(caught.exception).startswith(place), caught.exception)
