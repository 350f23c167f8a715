"""Recensor on many machines: examples for nginx and systemd, and a trial of a cluster."""
