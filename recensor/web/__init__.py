"""What every app shares: append-only rows, fields, marks, refusals, access, drawings, slots and template parts."""
