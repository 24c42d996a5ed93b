"""Levels, tools and folders: who may do what where."""
