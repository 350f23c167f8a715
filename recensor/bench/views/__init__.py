"""The bench page's views: parse, call one service or query, render."""
