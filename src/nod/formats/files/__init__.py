"""Open formats of files as such: tables, archives, mail, previews, covers."""
