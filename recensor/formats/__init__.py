"""Open formats in and out: run documents, the answer of ``recensor judge``, SPICE netlists."""
