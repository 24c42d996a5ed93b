"""Marks: shapes, looks, measures, files of other programs."""
