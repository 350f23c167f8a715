"""What goes out whole and comes in: accounts, backups, documents and tables; and checks of all rows."""
