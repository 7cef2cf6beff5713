"""Open formats: the visit file, the judgement, CSV. Text in, core objects out, and back."""
