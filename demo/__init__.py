"""A made workshop: for show (load_demo) and for measuring speed (bench)."""
