"""Picture to drawing, by three methods: solid, flats and centreline; see the module trace."""
