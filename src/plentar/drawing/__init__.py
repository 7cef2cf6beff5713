"""Judgement and unit in, SVG text out. No colours here: classes, which the style sheet paints."""
