"""Where material enters and leaves the plant."""
