"""The made-up scenario: Merrow Tide Mill, an invented restored mill on an invented estuary."""
