"""Kits: stocks of resistors, and the table where a handful is sorted into them."""
