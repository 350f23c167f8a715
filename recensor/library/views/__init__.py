"""The library's pages: parse, call one service or query, render."""
