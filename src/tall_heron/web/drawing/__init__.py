"""Core results to SVG geometry: plain numbers and words for the templates to draw."""
