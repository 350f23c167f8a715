"""The campaigns, for a short while each: what they would find at length they begin to look for here."""

import subprocess
import sys
from pathlib import Path
from unittest import TestCase

from tests.samples import samples
from tests.site.test_launch import environment

ROOT = Path(__file__).resolve().parents[2]
SECONDS = samples(1, 20)
SOME = samples(("access", "races"), ("access", "odd-input", "races", "load", "durability"))


class Campaigns(TestCase):
    def test_nothing_is_lost_seen_or_brought_down(self) -> None:
        command = [sys.executable, "-m", "campaigns", "--seconds", str(SECONDS), *SOME]
        done = subprocess.run(command, cwd=ROOT, env=environment(ROOT), text=True, capture_output=True, check=False)
        self.assertEqual(done.returncode, 0, done.stdout + done.stderr)
        lines = done.stdout.splitlines()
        self.assertEqual([line.partition(": ")[0].replace(" ", "-") for line in lines], list(SOME))
        for line in lines:
            self.assertTrue(line.endswith("; 0 wrong"), line)
        # A campaign that did nothing found nothing either.
        self.assertRegex(done.stdout, r"access: \d{2,} of ")
        if "odd-input" in SOME:
            self.assertRegex(done.stdout, r"odd input: \d{2,} of ")
        self.assertRegex(done.stdout, r"races: [1-9]\d* rounds")
        if "durability" in SOME:
            self.assertRegex(done.stdout, r"durability: \d{2,} acknowledged, .* [1-9]\d* kills")
