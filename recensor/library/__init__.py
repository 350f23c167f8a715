"""The library: sheets that runs follow."""
