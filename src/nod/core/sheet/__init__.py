"""A sheet on its paper: places, sizes, words."""
