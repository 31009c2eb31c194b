"""Dark areas to filled shapes (solid), and fits that do not cross."""
