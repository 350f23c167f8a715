"""The keys of the bench, as its dialog lists them."""

KEYS = (
    ("Enter", "record the reading, go on to the next"),
    ("Enter in the empty field, Alt p", "power is switched, as the instruction says"),
    ("Alt 1, Alt 2 …", "answer a question"),
    ("Alt Backspace", "undo the last thing"),
    ("Alt t", "what was just recorded: a trial, or instead of the last"),
    ("Alt −", "turn the sign of what was just recorded"),
    ("Alt r", "read once more what was just left"),
    ("=", "the last reading once more, as another trial"),
    ("Alt o", "over-range"),
    ("Alt ↑, Alt ↓", "the measurement before, the one after"),
    (
        "/",
        "read something else: two points, a point, a part, a leg; or a change: R2=500, R3 open",
    ),
    ("Alt c", "own calculation"),
    ("Alt m", "more: range, meter, photo"),
    ("Alt l", "drawing or table of readings at the left"),
    (
        "Alt j, Alt g, Alt k, Alt v, Alt w, Alt y",
        "open parts and circuits, readings, checks, V–I, causes, history; once more closes them",
    ),
    ("?", "these keys"),
)
