"""Shapes for hands: recipes, candidates and the rules that a voicing obeys.

Context-free: nothing here looks at a neighbouring chord.
"""
