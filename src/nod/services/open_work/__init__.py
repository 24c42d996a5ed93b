"""What is with whom: one table that every feature writes in its acts."""
