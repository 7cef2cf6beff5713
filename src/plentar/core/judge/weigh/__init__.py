"""How well each hypothesis explains the evidence: likelihood, pairs, posterior, reasons."""
