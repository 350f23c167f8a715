"""The board of a run: what is typed and done to it, how it is kept, and its page."""
