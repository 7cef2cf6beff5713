"""The web application: a factory, one folder a view, and templates that compute nothing."""
