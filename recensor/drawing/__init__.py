"""Drawings: view models for SVG templates. No database."""
