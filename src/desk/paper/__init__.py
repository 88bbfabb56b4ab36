"""Pages for paper: laid out as PDF in a process of their own, with the application's own fonts."""
