"""Tables, queries, blobs, transactions and the journal."""
