"""What bin/bench measures: the core, pages, keystrokes, and fifty technicians at once; each beside a bare floor."""
