"""Letters: threads between companies, written here or in mailboxes, each there for its people (handbook §11)."""
