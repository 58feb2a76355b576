"""Films as pure functions, bytes in and bytes out, by ffmpeg run as a program with limits."""
