"""Archives: many reports at once and whole accounts, packed and unpacked in the background."""
