"""Long attempts to break a running Recensor: ``.venv/bin/python -m campaigns [NAME...] [--seconds N]``.

Each starts from what is really there (the addresses, the forms on the pages), works until its time is over, and ends
in one line of figures. The status is 1 where something was lost, doubled, seen by the wrong person, or failed.
"""
