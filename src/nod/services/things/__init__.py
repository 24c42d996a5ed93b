"""Things: what there is in a project, what it is called, where it opens, and who sees it."""
