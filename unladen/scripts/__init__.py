"""Scripts as pure functions, text in and text out."""
