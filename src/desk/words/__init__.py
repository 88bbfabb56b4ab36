"""Every word of the job that a screen, a report or a file shows, once. ``told`` gathers them for the front end, which types none."""
