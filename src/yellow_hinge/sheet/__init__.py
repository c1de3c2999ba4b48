"""What is written down: pages as lines, glyphs and texts in millimetres, whoever paints them."""
