"""From a drawing at true size to what a machine takes: toolpaths, outlines, solids, print files."""
