"""Editing: what a maker does to a drawing by hand. Pure functions from drawing to drawing; lengths in drawing
units unless a name says otherwise.
"""
