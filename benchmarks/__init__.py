"""What ./plentar bench measures: ratios against a floor in the same run, never seconds alone."""
