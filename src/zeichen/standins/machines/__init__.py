"""Stand-ins for machines that read programs: a parser of their language, and how they move."""
