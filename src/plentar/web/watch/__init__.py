"""What an operator sees of the requests: one structured log, and figures for Prometheus."""
