"""What comes in and goes out: class lists, dossiers."""
