"""What happened on a visit, how the unit stood, and which readings count."""
