"""The rules of the job. See README.md in this folder for its law."""
