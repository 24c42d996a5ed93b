"""Marks in files: PDF annotations, XFDF, prints, summaries."""
