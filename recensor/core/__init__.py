"""Rules and computation of the resistor bench. No framework, no page, no file access."""
