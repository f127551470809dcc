"""Property models, one file each; found by the registry, so that adding one touches no other file."""
