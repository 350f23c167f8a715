"""Reports: what is handed in, filed, or taken elsewhere, written out of a run."""
