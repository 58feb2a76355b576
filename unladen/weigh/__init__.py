"""A browser's visit measured under stated conditions."""
