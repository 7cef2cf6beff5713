"""The texts in English, one table a subject."""
