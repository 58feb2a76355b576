"""HTML, CSS, srcset and URLs read with their positions and edited in place."""
