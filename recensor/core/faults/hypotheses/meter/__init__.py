"""What the meter does to the circuit, or to the number."""
