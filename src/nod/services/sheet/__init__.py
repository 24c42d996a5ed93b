"""The sheet: its pages, words, links and pictures."""
