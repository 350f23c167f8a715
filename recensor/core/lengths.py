"""How long what people write may be, in characters: for pages, documents and rows alike."""

# Of a part, a node, a setup, a meter.
NAME = 60

TITLE = 120
UNIT = 12
FORMULA = 120
REASON = 200
AIM = 2_000

# Notes, a conclusion, and whatever else is pasted into one field.
PROSE = 20_000
