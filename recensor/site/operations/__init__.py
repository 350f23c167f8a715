"""What keeps an installation trustworthy: backups that come back whole, and books that are looked through."""
