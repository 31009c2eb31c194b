"""How well a picture will trace, and by which method: told from the picture before anyone traces it."""
