"""Running an installation: started and stopped, backed up, upgraded, watched."""
