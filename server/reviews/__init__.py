"""What is shown to people without an account: reviews by clients, and what stands on top of reports."""
