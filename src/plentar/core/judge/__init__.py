"""The judge: what may be wrong, what each would show, how well that fits, what to read next."""
