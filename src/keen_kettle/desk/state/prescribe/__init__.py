"""What is prescribed."""
