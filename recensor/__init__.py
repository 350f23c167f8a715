"""Recensor: what was drawn, what was built, what was measured."""

import os

__version__ = "0.3.0"

# One thread of linear algebra for each process: circuits are small, and more threads only get in each other's way.
for _library in ("OPENBLAS", "OMP", "MKL"):
    os.environ.setdefault(f"{_library}_NUM_THREADS", "1")
