"""Open JSON documents: run, sheet, board, profile, plan and assessment; their checksum."""
