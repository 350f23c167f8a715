"""Tables in and out: grids that people bring, lines read out of them, CSV and workbooks."""
