"""Heat and shafts: where they come from, go to and are shared out."""
